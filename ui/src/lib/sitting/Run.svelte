<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { onMount, type Snippet } from 'svelte';
	import Asked from './Asked.svelte';
	import BeforeSubmit from './BeforeSubmit.svelte';
	import Cover from './Cover.svelte';
	import Ended from './Ended.svelte';
	import Foot from './Foot.svelte';
	import Reading from './Reading.svelte';
	import Review from './Review.svelte';
	import { Run } from './taking.svelte';
	import type { Sitting } from './sitting.svelte';
	import Tools from './Tools.svelte';
	import TopBar from './TopBar.svelte';
	import Word from './Word.svelte';

	/** The student's page: one question at a time, every answer saved as it is given; movement, tools and what is told
	    when are as the test says. Staff see the same page in a trial run. */
	let {
		sitting,
		home = '/',
		trial = false,
		lead
	}: { sitting: Sitting; home?: string; trial?: boolean; lead?: Snippet } = $props();
	// svelte-ignore state_referenced_locally (one page, one attempt)
	const run = new Run(sitting, home, trial);

	onMount(() => run.begin());
	$effect(() => run.atTheEnd());
	$effect(() => run.atFive());
	$effect(() => run.holding());
</script>

<svelte:window onkeydown={(event) => run.key(event)} />
<svelte:head><title>{run.paper?.title ?? 'Test'}</title></svelte:head>

<div
	class="run flex min-h-screen flex-col bg-sheet text-[18px] leading-normal"
	class:large={run.paper?.large_print}
	class:contrast={run.display.contrast}
	class:spaced={run.display.spaced}
	style:--zoom={run.display.zoom}
>
	{@render lead?.()}
	{#if run.problem && !run.paper}<p class="p-6" role="alert">{run.problem}</p>{/if}
	{#if sitting.review}
		<main class="mx-auto w-full max-w-[860px] px-5 py-8">
			<Review review={sitting.review} />
			<Button kind="primary" class="mt-8 min-h-[48px] px-6 text-[17px]" onclick={() => run.leave()}
				>{trial ? 'Back to the form' : 'Go to the start page'}</Button
			>
		</main>
	{:else if run.paper && run.ended}
		<Ended {run} />
	{:else if run.paper && sitting.takenOver}
		<main class="m-auto max-w-[560px] p-6 text-center">
			<h1 class="text-[24px]">
				{sitting.changed ? 'Your teacher changed your test.' : 'You continued on another device.'}
			</h1>
			<p class="mt-3">
				{sitting.changed
					? 'To go on, enter your codes again.'
					: 'Your answers here are saved. To use this device again, enter your codes again.'}
			</p>
			<Button kind="primary" class="mt-6 min-h-[48px] px-6 text-[17px]" onclick={() => run.leave()}
				>Go to the start page</Button
			>
		</main>
	{:else if run.paper && run.covered}
		<Cover {run} />
	{:else if run.paper && run.question}
		<Word {run} />
		<TopBar {run} />
		{#if run.leaving}
			<BeforeSubmit {run} />
		{:else}
			<main class="w-full flex-1 px-4 py-6 pb-28 md:px-8 md:py-9">
				{#if run.toolWords.length}<Tools {run} />{/if}
				<Reading reader={run.reader} />
				<Asked {run} />
			</main>
			<Foot {run} />
		{/if}
	{/if}
</div>

<style>
	:global(::highlight(marked)) {
		background: var(--color-relief5);
	}
	.run :global(main) {
		zoom: var(--zoom);
	}
	.large :global(main) {
		zoom: calc(1.35 * var(--zoom));
	}
	.spaced :global(main) {
		line-height: 2;
		letter-spacing: 0.08em;
		word-spacing: 0.2em;
	}
	.contrast {
		--color-sheet: #fff;
		--color-paper: #fff;
		--color-wash: #fff;
		--color-ink: #000;
		--color-ink2: #000;
		--color-edge: #000;
		--color-edge-soft: #000;
		--color-hair: #000;
		--color-petrol: #003a45;
		font-weight: 500;
	}
	@media (min-width: 768px) {
		.run :global(.apart) {
			position: fixed;
			right: 16px;
			bottom: 84px;
			z-index: 15;
			box-shadow: 0 2px 10px rgb(22 36 42 / 0.18);
		}
	}
	.run :global(.step) {
		border-radius: 1px;
	}
	.run :global(.tag) {
		padding: 0 5px;
		background: var(--color-white);
	}
	.run :global(.later) {
		background: repeating-linear-gradient(135deg, var(--color-white) 0 2px, var(--color-relief2) 2px 4px);
		box-shadow: inset 0 0 0 1px var(--color-relief2);
	}
</style>
