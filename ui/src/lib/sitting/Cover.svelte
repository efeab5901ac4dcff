<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { Run } from './taking.svelte';

	/** Over the whole screen while the room stands still or the student is out of it: nothing of the test is seen. */
	let { run }: { run: Run } = $props();
	const room = $derived(run.sitting.room);
</script>

<main class="m-auto max-w-[560px] p-6 text-center">
	{#if room?.paused}
		<h1 class="text-[26px]">Your test is paused.</h1>
		{#if room.why}<p class="mt-3">{room.why}</p>{/if}
		<p class="mt-3 text-ink2">Your answers are saved, and you lose no time. Leave this page open.</p>
	{:else}
		<h1 class="text-[26px]">You are out of the room.</h1>
		<p class="mt-3 text-ink2">
			{room?.still ? 'Your time stands still until you are back.' : 'Your time keeps running.'} Your answers are saved.
		</p>
		<Button
			kind="primary"
			class="mt-6 min-h-[48px] px-6 text-[17px]"
			disabled={run.busy}
			onclick={() => run.sign('back')}>I am back</Button
		>
	{/if}
	{#if run.problem}<p class="mt-5 border-l-4 border-vermilion pl-3 text-left" role="alert">{run.problem}</p>{/if}
</main>
