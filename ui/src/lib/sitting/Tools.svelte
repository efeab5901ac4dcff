<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Calculator from './Calculator.svelte';
	import Protractor from './Protractor.svelte';
	import Ruler from './Ruler.svelte';
	import Scientific from './Scientific.svelte';
	import SketchPad from './SketchPad.svelte';
	import type { Run } from './taking.svelte';

	/** The tools that the test allows, each a word in one menu; what is in use lies below. */
	let { run }: { run: Run } = $props();
	const question = $derived(run.question!);
	const marker = $derived(run.highlighter);
	const entries = $derived(
		run.toolWords.map(([name, word]) => ({
			label: run.using(name) ? `Put away the ${word}` : `${word[0]!.toUpperCase()}${word.slice(1)}`,
			does: () => run.use(name)
		}))
	);
</script>

<div class="mx-auto mb-4 flex max-w-[1120px] flex-wrap items-start gap-2" role="group" aria-label="Tools">
	<Menu label="Tools" {entries} />
	{#if marker.on}
		<span class="self-center text-[15px] text-ink2">Mark words in the text.</span>
		<Button kind="quiet" class="min-h-[40px]" onclick={() => marker.clear(question.id)}>Clear marks</Button>
	{/if}
	{#if run.using('calculator')}<Calculator />{/if}
	{#if run.using('scientific')}<Scientific />{/if}
	{#if run.using('notes')}
		<label class="block w-full max-w-[420px] text-[15px] text-ink2"
			>Notes on this question (they are not scored)<textarea
				class="mt-1 block min-h-[96px] w-full rounded border border-edge p-2 text-[17px] text-ink"
				maxlength="4000"
				value={question.notes}
				oninput={(e) => run.sitting.beside(question, 'notes', e.currentTarget.value)}></textarea></label
		>
	{/if}
</div>
{#if run.using('sketch')}{#key question.id}<SketchPad
			value={question.sketch}
			locked={question.final}
			onput={(text) => run.sitting.beside(question, 'sketch', text)}
		/>{/key}{/if}
{#if run.using('ruler')}<Ruler />{/if}
{#if run.using('protractor')}<Protractor />{/if}
