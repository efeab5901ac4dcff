<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Calculator from './Calculator.svelte';
	import Ruler from './Ruler.svelte';
	import type { Run } from './taking.svelte';

	/** The tools that the test allows. */
	let { run, question }: { run: Run; question: string } = $props();
	const tools = $derived(run.tools);
	const marker = $derived(run.highlighter);
</script>

{#snippet toggle(name: string, pressed: boolean, act: () => void)}
	<Button class="min-h-[40px]" aria-pressed={pressed} onclick={act}>{name}</Button>
{/snippet}

<div class="mx-auto mb-4 flex max-w-[1120px] flex-wrap items-start gap-2" role="group" aria-label="Tools">
	{#if tools.has('calculator')}{@render toggle(
			'Calculator',
			run.calculator,
			() => (run.calculator = !run.calculator)
		)}{/if}
	{#if tools.has('ruler')}{@render toggle('Ruler', run.ruler, () => (run.ruler = !run.ruler))}{/if}
	{#if tools.has('highlighter')}
		{@render toggle('Highlighter', marker.on, () => (marker.on = !marker.on))}
		{#if marker.on}
			<Button kind="quiet" class="min-h-[40px]" onclick={() => marker.clear(question)}>Clear marks</Button>
		{/if}
	{/if}
	{#if tools.has('notes')}{@render toggle('Notes', run.noting, () => (run.noting = !run.noting))}{/if}
	{#if run.calculator}<Calculator />{/if}
	{#if run.noting}
		<label class="block w-full max-w-[420px] text-[15px] text-ink2"
			>Notes on this question (they are not scored)<textarea
				class="mt-1 block min-h-[96px] w-full rounded border border-edge p-2 text-[17px] text-ink"
				value={run.notes[question] ?? ''}
				oninput={(e) => run.note(e.currentTarget.value)}></textarea></label
		>
	{/if}
</div>
{#if run.ruler}<Ruler />{/if}
