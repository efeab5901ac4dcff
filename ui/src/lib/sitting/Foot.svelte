<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { Run } from './taking.svelte';

	/** Back and on, come back to it, and whether everything is saved. */
	let { run }: { run: Run } = $props();
	const sitting = $derived(run.sitting);
	const id = $derived(run.question!.id);
	const finish = $derived(run.finishing ? 'Finish' : 'Finish section');
	const unsaved = $derived(!!sitting.refused || sitting.status === 'waiting');
</script>

<footer
	class="fixed inset-x-0 bottom-0 flex flex-wrap items-center gap-2 border-t border-hair bg-sheet px-4 py-2.5 md:px-6"
>
	{#if !run.paper?.one_way}
		<Button
			class="min-h-[46px] px-4 text-[17px]"
			disabled={sitting.place === sitting.first}
			onclick={() => run.show(sitting.place - 1)}>Back</Button
		>
		<Button
			class="min-h-[46px] px-4 text-[17px]"
			aria-pressed={!!sitting.later[id]}
			onclick={() => sitting.comeBack(id)}
		>
			{#if sitting.later[id]}Marked{:else}<span class="md:hidden">Later</span><span class="hidden md:inline"
					>Come back to it</span
				>{/if}
		</Button>
	{/if}
	<span class="ml-auto text-[14px] {unsaved ? 'font-bold text-vermilion' : 'text-ink2'}" role="status"
		>{run.status}</span
	>
	{#if !run.last && run.free}
		<Button class="hidden min-h-[46px] px-4 text-[17px] md:inline-flex" onclick={() => run.overview()}>{finish}</Button>
	{/if}
	{#if run.unchecked}
		<Button kind="primary" class="min-h-[46px] px-6 text-[17px]" disabled={run.busy} onclick={() => run.check()}
			>Check</Button
		>
	{:else}
		<Button
			kind="primary"
			class="min-h-[46px] px-6 text-[17px]"
			onclick={() => (run.last ? run.overview() : run.show(sitting.place + 1))}>{run.last ? finish : 'Next'}</Button
		>
	{/if}
</footer>
