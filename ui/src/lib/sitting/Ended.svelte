<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { Run } from './taking.svelte';

	/** What is shown when there is nothing more to answer, and why. */
	let { run }: { run: Run } = $props();
	const paper = $derived(run.paper);
	const sitting = $derived(run.sitting);
	/** Submitted while the others are still at work: the page leads nowhere but to the next student of the device. */
	const waits = $derived(!run.trial && !sitting.closed && (run.ended === 'handed_in' || run.ended === 'kept_here'));
</script>

<main class="m-auto max-w-[560px] p-6 text-center">
	{#if run.ended === 'handed_in' && paper}
		<h1 class="text-[26px]">
			{run.trial
				? 'This is the end of the test.'
				: sitting.closed
					? `This test is closed, ${paper.name}. Your answers are in.`
					: `Your answers are in, ${paper.name}.`}
		</h1>
		{#if sitting.left}
			<p class="mt-3 border-l-4 border-vermilion pl-3 text-left" role="alert">
				{sitting.left === 1 ? 'One answer was' : `${sitting.left} answers were`} not saved in time and {sitting.left ===
				1
					? 'is'
					: 'are'} kept on this device. Tell the person in the room before you leave.
			</p>
		{/if}
		<p class="mt-3">
			{run.trial
				? 'Nothing in this preview is saved.'
				: paper.more
					? `You may try again ${paper.more === 1 ? 'once' : `${paper.more} times`}; your first answers are the ones that count.`
					: paper.afterward || 'Wait for the others here, and work quietly.'}
		</p>
		{#if paper.review_follows && !paper.review}
			<p class="mt-3">You will see the right answers here when everyone has taken this test.</p>
		{/if}
		{#if run.problem}<p class="mt-3 border-l-4 border-vermilion pl-3 text-left" role="alert">{run.problem}</p>{/if}
		<div class="mt-5 flex flex-wrap justify-center gap-3">
			{#if paper.review}
				<Button class="min-h-[48px] px-6 text-[17px]" onclick={() => run.lookBack()}>See correct answers</Button>
			{/if}
			{#if paper.more}
				<Button class="min-h-[48px] px-6 text-[17px]" disabled={run.busy} onclick={() => run.again()}>Try again</Button>
			{/if}
		</div>
	{:else if run.ended === 'kept_here' && paper}
		<h1 class="text-[26px]">Your test is submitted on this device, {paper.name}.</h1>
		<p class="mt-3">
			The network is away. Everything is sent by itself as soon as it is back. Leave this device switched on, and tell
			the person in the room.
		</p>
	{:else if run.ended === 'resting' && paper}
		<h1 class="text-[26px]">That is all for today, {paper.name}.</h1>
		<p class="mt-3">Your answers are saved. You continue this test on another day, with the time you have left.</p>
	{:else if run.ended === 'signed_out'}
		<h1 class="text-[24px]">You are signed out.</h1>
		<p class="mt-3">
			Enter the session code and your sign-in code again. Your answers are kept on this device and go on from there.
		</p>
	{:else}
		<h1 class="text-[24px]">This test is not open to you now.</h1>
		<p class="mt-3">Ask the person in the room.</p>
	{/if}
	{#if waits}
		<Button kind="quiet" class="mt-10 min-h-[44px] text-[16px]" onclick={() => run.leave()}
			>This device is for another student now</Button
		>
	{:else}
		<Button kind="primary" class="mt-6 min-h-[48px] px-6 text-[17px]" onclick={() => run.leave()}
			>{run.trial ? 'Back to the form' : 'Go to the start page'}</Button
		>
	{/if}
</main>
