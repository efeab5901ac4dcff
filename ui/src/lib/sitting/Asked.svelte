<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Markup from '$lib/parts/Markup.svelte';
	import Sheet from '$lib/sitting/question/Sheet.svelte';
	import type { Run } from './taking.svelte';
	import Told from './Told.svelte';

	/** The question that is before the student, with its hints and what is told of the answer. */
	let { run }: { run: Run } = $props();
	const question = $derived(run.question!);
	const sitting = $derived(run.sitting);
	const canSpeak = 'speechSynthesis' in window;
</script>

<div id="question" tabindex="-1" class="outline-none">
	{#if run.sectionOver}
		<div class="mx-auto mb-5 flex max-w-[1120px] items-center gap-4 border-l-4 border-petrol pl-3" role="status">
			<span>The time for the section before is over. Its answers are saved; this is {run.section.toLowerCase()}.</span>
			<Button class="min-h-[44px] text-[16px]" onclick={() => (run.sectionOver = false)}>OK</Button>
		</div>
	{/if}
	{#if run.begins && (run.begins.name || run.begins.instructions)}
		<div class="mx-auto mb-5 max-w-[1120px] border-b border-hair pb-3 text-[17px]">
			{#if run.begins.name}<b>{run.begins.name}</b>{#if run.begins.minutes}<span class="text-ink2"
						>&ensp;{run.begins.seconds
							? `${Math.round(run.begins.seconds / 60)} minutes, then it ends by itself`
							: `about ${run.begins.minutes} minutes`}</span
					>{/if}{/if}
			{#if run.begins.instructions}<p>{run.begins.instructions}</p>{/if}
		</div>
	{/if}
	{#key question.id}
		<div {@attach run.highlighter.over(question.id)} class={run.highlighter.on ? 'cursor-text' : ''}>
			<Sheet
				shown={question.shown}
				stimulus={question.stimulus}
				answer={question.answer}
				name="q{question.id}"
				number="{question.number}."
				crossing={run.tools.has('crossing_out')}
				locked={question.final}
				onanswer={(answer) => sitting.answer(question, answer)}
			>
				{#snippet before()}
					{#if run.paper?.read_aloud && canSpeak}
						<Button class="mb-3 min-h-[44px] text-[16px]" onclick={() => run.reader.open(question)}>Read aloud</Button>
					{/if}
				{/snippet}
				{#snippet after()}
					{#if question.hints.length && !question.final}
						{@const seen = run.hinted[question.id] ?? 0}
						<div class="mt-4 text-[16px]">
							{#each question.hints.slice(0, seen) as hint, n (n)}
								<div class="mb-2 border-l-4 border-l-relief4 pl-3"><Markup html={hint} /></div>
							{/each}
							{#if seen < question.hints.length}
								<Button class="min-h-[44px]" onclick={() => (run.hinted[question.id] = seen + 1)}
									>{seen ? 'One more hint' : 'A hint'}</Button
								>
							{/if}
						</div>
					{/if}
					{#if run.problem}<p class="mt-4 border-l-4 border-vermilion pl-3" role="alert">{run.problem}</p>{/if}
					{#if sitting.told[question.id]}<Told told={sitting.told[question.id]!} />{/if}
				{/snippet}
			</Sheet>
		</div>
	{/key}
</div>
