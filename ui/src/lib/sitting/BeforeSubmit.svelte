<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { complete } from '$lib/sitting/question/answer';
	import type { Run } from './taking.svelte';

	/** All questions at a look, and the last word before submitting. */
	let { run }: { run: Run } = $props();
	const paper = $derived(run.paper!);
	const sitting = $derived(run.sitting);
	const { from, to } = $derived(sitting.bounds);
	const asked = $derived(paper.questions.slice(from, to + 1));
	const open = $derived(asked.filter((q) => !complete(q.shown, q.answer)).length);
	const marked = $derived(asked.some((q) => sitting.later[q.id]));
</script>

<main class="mx-auto w-full max-w-[680px] flex-1 px-5 py-8">
	<h1 class="text-[24px]">
		{open === 0
			? run.finishing
				? 'You have answered everything.'
				: 'You have answered everything in this section.'
			: `${open} of ${asked.length} questions ${open === 1 ? 'is' : 'are'} not answered yet.`}
	</h1>
	<div class="mt-5 grid grid-cols-[repeat(auto-fill,minmax(52px,1fr))] gap-2">
		{#each asked as q (q.id)}
			<button
				class="step flex min-h-[46px] cursor-pointer items-center justify-center rounded-[4px] border-[1.5px] text-[17px] {sitting
					.later[q.id]
					? 'later border-relief2'
					: complete(q.shown, q.answer)
						? 'border-relief3 bg-wash'
						: 'border-ink bg-sheet font-bold'}"
				aria-label={run.stands(q)}
				disabled={q.number - 1 < sitting.first}
				onclick={() => run.show(q.number - 1)}><span class:tag={sitting.later[q.id]}>{q.number}</span></button
			>
		{/each}
	</div>
	<p class="mt-3 text-[15px] text-ink2">
		Questions with a bold border are unanswered{marked ? '; stripes mark those you flagged for review' : ''}.
	</p>
	{#if run.problem}<p class="mt-5 border-l-4 border-vermilion pl-3" role="alert">{run.problem}</p>{/if}
	<p class="mt-6 text-ink2">
		{!run.finishing
			? 'You cannot come back to this section once you go on.'
			: run.trial
				? 'A student submits the test here.'
				: 'After you submit, you cannot change your answers.'}
	</p>
	{#if !run.finishing}<!-- submitting comes after the last section -->{:else if run.submitIn}<p
			class="mt-3 border-l-4 border-petrol pl-3"
			role="status"
		>
			You can submit in {run.submitIn}
			{run.submitIn === 1 ? 'minute' : 'minutes'}. Look at your answers once more until then.
		</p>{:else if run.hasty}<p class="mt-3 border-l-4 border-vermilion pl-3" role="alert">
			Most students take much longer for this test. Have you read every question? You can go back, or submit now.
		</p>{/if}
	<div class="mt-3 flex flex-wrap gap-3">
		<Button class="min-h-[50px] px-5 text-[17px]" onclick={() => (run.leaving = false)}>Back to the questions</Button>
		{#if !run.finishing}<Button kind="primary" class="min-h-[50px] px-6 text-[17px]" onclick={() => run.nextSection()}
				>Go on to the next section</Button
			>{:else}<Button
				kind="primary"
				class="min-h-[50px] px-6 text-[17px]"
				disabled={run.busy || run.submitIn > 0}
				onclick={() => run.submit()}
				>{run.hasty ? 'Submit now' : open ? `Submit with ${open} unanswered` : 'Submit'}</Button
			>{/if}
	</div>
</main>
