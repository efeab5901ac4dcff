<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import { complete } from '$lib/sitting/question/answer';
	import type { Run } from './taking.svelte';

	/** Title, name, where one is among the questions, and the time that is left. */
	let { run }: { run: Run } = $props();
	const paper = $derived(run.paper!);
	const sitting = $derived(run.sitting);
	const ZOOM = [1, 1.25, 1.5, 2];
	const seen = $derived(run.display);
	const larger = $derived(ZOOM.find((z) => z > seen.zoom));
	const display = $derived([
		{
			label: larger ? `Larger text (${Math.round(larger * 100)} %)` : 'Text as usual',
			does: () => run.showAs({ zoom: larger ?? 1 })
		},
		{
			label: seen.contrast ? 'Contrast as usual' : 'High contrast',
			does: () => run.showAs({ contrast: !seen.contrast })
		},
		{ label: seen.spaced ? 'Spacing as usual' : 'Wide spacing', does: () => run.showAs({ spaced: !seen.spaced }) }
	]);
	let room = $state(0);
	const { from, to } = $derived(sitting.bounds);
	const asked = $derived(paper.questions.slice(from, to + 1));
	const roomy = $derived(room >= asked.length * 27); // each a target of 24 px and a gap

	function look(at: number) {
		const q = paper.questions[at];
		if (at === sitting.place && !run.leaving) return 'h-6 bg-petrol';
		if (q && sitting.later[q.id]) return 'later h-4';
		return q && complete(q.shown, q.answer) ? 'h-4 bg-relief3' : 'h-2 bg-edge-soft';
	}
</script>

<header
	class="sticky top-0 z-10 flex items-center gap-4 max-[479px]:gap-2 border-b border-hair bg-sheet px-4 py-2 text-[15px] md:px-6"
>
	<b class="hidden md:block">{paper.title}</b>
	{#if run.section}<span class="flex-none max-[767px]:hidden">{run.section}</span>{/if}
	{#if paper.full_name}<span class="max-w-[30%] flex-none truncate text-ink2">{paper.full_name}</span>{/if}
	<div class="min-w-0 flex-1" bind:clientWidth={room}>
		{#if roomy && run.free}
			<nav class="flex h-8 items-end justify-center gap-[3px]" aria-label="Questions">
				{#each asked as q, n (q.id)}
					{@const at = from + n}
					<button
						class="flex h-8 w-6 flex-none cursor-pointer items-end"
						title={run.stands(q)}
						aria-label={run.stands(q)}
						aria-current={at === sitting.place && !run.leaving ? 'step' : undefined}
						onclick={() => run.show(at)}
					>
						<span class="step block w-full {look(at)}"></span>
					</button>
				{/each}
			</nav>
		{:else}
			<button
				class="flex h-10 w-full flex-col justify-end {run.free ? 'cursor-pointer' : ''}"
				disabled={!run.free}
				aria-label="Question {run.question?.number} of {paper.questions.length}{run.free ? '; show all' : ''}"
				onclick={() => run.overview()}
			>
				<span class="flex w-full items-end gap-[2px]" aria-hidden="true">
					{#each asked as q, n (q.id)}<span class="step block min-w-0 flex-1 {look(from + n)}"></span>{/each}
				</span>
				<span class="text-[12px] leading-[14px] whitespace-nowrap"
					>{run.section ? `${run.section} · ` : ''}{run.question?.number} of {paper.questions
						.length}{#if !run.trial && !run.timeHidden}<span
							class="min-[480px]:hidden {run.minutes <= 5 ? 'font-bold' : ''}">&nbsp;· {run.minutes} min</span
						>{/if}</span
				>
			</button>
		{/if}
	</div>
	{#if !run.trial}
		<button
			class="flex-none cursor-pointer tabular-nums max-[479px]:hidden {run.minutes <= 5 ? 'font-bold' : ''}"
			title={run.timeHidden ? 'Show the time' : 'Hide the time'}
			onclick={() => (run.timeHidden = !run.timeHidden)}
			>{#if run.timeHidden}Time<span class="sr-only">&nbsp;hidden; show it</span>{:else}{run.minutes} min<span
					class="max-[480px]:sr-only">&nbsp;left</span
				>{/if}</button
		>
		<Button
			class="min-h-[40px] flex-none"
			aria-pressed={run.asked}
			disabled={run.busy}
			title={run.asked ? 'Someone is coming. Press again if you no longer need help.' : 'Ask for help'}
			onclick={() => run.sign(run.asked ? 'never_mind' : 'help')}>{run.asked ? 'Asked' : 'Help'}</Button
		>
		<Menu
			quiet
			label="More"
			entries={[
				{ label: 'Go to the restroom', does: () => void run.sign('restroom') },
				{ label: run.timeHidden ? 'Show the time' : 'Hide the time', does: () => (run.timeHidden = !run.timeHidden) },
				...display
			]}
		/>
	{:else}
		<Menu quiet label="Display" entries={display} />
	{/if}
</header>
