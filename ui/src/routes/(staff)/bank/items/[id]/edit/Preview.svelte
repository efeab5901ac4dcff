<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import type { Content } from '$lib/bank/editor/kinds';
	import { readAnswer } from '$lib/sitting/question/answer';
	import Sheet from '$lib/sitting/question/Sheet.svelte';

	/** The item exactly as the student sees it, on a laptop and on a phone; an answer shows how it is scored. */
	let {
		content: written,
		stimulus,
		saved = 0,
		template = null
	}: {
		content: Content;
		stimulus: Schemas['StimulusView'] | null;
		saved?: number;
		template?: Schemas['Template'] | null;
	} = $props();
	let seed = $state(1);
	let drawn = $state<Schemas['Draw'] | null>(null);
	// a template is seen as one of its draws
	const content = $derived(template && drawn?.content ? drawn.content : written);
	let width = $state<'wide' | 'phone'>('wide');
	let answer = $state('');
	let tried = $state<Schemas['TriedAnswers'] | null>(null);
	let problem = $state('');
	let asked = 0;
	let room = $state(0);
	const WIDE = 860;
	const scale = $derived(width === 'wide' && room ? Math.min(1, room / WIDE) : 1);

	$effect(() => {
		if (!template) return void (drawn = null);
		const asks = {
			content: $state.snapshot(written) as Content,
			template: $state.snapshot(template) as Schemas['Template'],
			seed
		};
		void saved;
		let current = true;
		const timer = setTimeout(() => {
			body(api.POST('/api/bank/draws', { body: asks }))
				.then((found) => current && ([drawn, answer] = [found.draws[0] ?? null, '']))
				.catch((error) => current && (problem = said(error)));
		}, 300);
		return () => ((current = false), clearTimeout(timer));
	});

	$effect(() => {
		const given = readAnswer(content.shown, answer);
		void saved; // a changed key scores the same answer anew
		const mine = ++asked;
		if (!answer) return void ((tried = null), (problem = ''));
		const timer = setTimeout(async () => {
			try {
				const found = await body(
					api.POST('/api/bank/try', { body: { content: $state.snapshot(content) as Content, answers: given } })
				);
				if (mine === asked) [tried, problem] = [found, ''];
			} catch (error) {
				if (mine === asked) [tried, problem] = [null, said(error)];
			}
		}, 200);
		return () => clearTimeout(timer);
	});
</script>

<Panel label="Preview" class="overflow-hidden">
	<div class="flex items-center gap-2 border-b border-hair px-4 py-2">
		<h2 class="flex-1">Student view{template ? `, draw ${seed}` : ''}</h2>
		{#if template}<Button class="min-h-[26px]" onclick={() => seed++}>new draw</Button>{/if}
		{#each [['wide', 'laptop'], ['phone', 'phone']] as const as [name, title] (name)}<button
				class="btn min-h-[26px]"
				aria-pressed={width === name}
				class:!bg-wash={width === name}
				onclick={() => (width = name)}>{title}</button
			>{/each}
		<Button kind="quiet" class="min-h-[26px]" disabled={!answer} onclick={() => (answer = '')}>Start over</Button>
	</div>
	<div class="max-h-[calc(100vh-330px)] min-h-[220px] overflow-auto bg-paper" bind:clientWidth={room}>
		<div
			class="mx-auto min-h-[220px] bg-sheet p-4 text-[18px] leading-normal {width === 'phone'
				? 'border-x border-hair'
				: ''}"
			style:width={width === 'phone' ? '360px' : `${WIDE}px`}
			style:zoom={scale}
		>
			<Sheet shown={content.shown} {stimulus} {answer} name="preview" number="1." onanswer={(a) => (answer = a)} />
		</div>
	</div>
	<div class="border-t border-hair px-4 py-2" aria-live="polite">
		{#if problem}<p class="text-vermilion">{problem}</p>
		{:else if tried}
			<p><b>{tried.said}</b></p>
			{#if tried.parts.length > 1 || tried.parts[0]?.label}
				{#each tried.parts as p (p.id)}
					<p class="small">
						{tried.parts.length > 1 ? `Part ${p.id}: ` : ''}{p.label
							? `counts as “${p.label.slice(0, 120)}”`
							: 'no response'}{p.points !== null ? `, ${p.points} of ${p.maximum}` : ''}{p.why ? `; ${p.why}` : ''}
					</p>
				{/each}
			{/if}
		{:else}<p class="small">Answer it here to see how it would be scored.</p>{/if}
	</div>
</Panel>
