<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import type { FormPage } from './form.svelte';

	/** What was looked through before the form is published. */
	let { shown }: { shown: FormPage } = $props();
	const checks = $derived(shown.checks ?? []);
	const stops = $derived(checks.filter((c) => c.weight === 'stop').length);
	const looks = $derived(checks.filter((c) => c.weight === 'look').length);
	const items = $derived(shown.form?.items.length ?? 0);
	const COLORS = { stop: 'text-vermilion', look: 'text-optB', fine: 'text-relief2' };
	const SIGNS = { stop: '■', look: '▲', fine: '●' };
</script>

<Panel label="Before it is published" class="mb-3 p-4">
	<h2 class="mb-2">
		{stops
			? `${stops === 1 ? 'One problem prevents' : `${stops} problems prevent`} publishing`
			: looks
				? `Ready to publish; ${looks === 1 ? 'one point' : `${looks} points`} to review`
				: 'Ready to publish'}
	</h2>
	<dl class="grid grid-cols-[18px_150px_1fr] gap-y-1 text-[13.5px]">
		{#each checks as check (check.name)}
			<dt class="contents">
				<span aria-hidden="true" class={COLORS[check.weight]}>{SIGNS[check.weight]}</span><span>{check.name}</span>
			</dt>
			<dd class={check.weight === 'fine' ? 'text-ink2' : ''}>{check.says}</dd>
		{/each}
	</dl>
	<div class="mt-3 flex items-center gap-3 border-t border-hair pt-3">
		<p class="small flex-1">Once published, {shown.form?.name} cannot be changed.</p>
		<Button kind="quiet" onclick={() => (shown.checks = null)}>Cancel</Button>
		<Button kind="primary" disabled={stops > 0} onclick={() => shown.publish()}
			>Publish with {items} {items === 1 ? 'item' : 'items'}</Button
		>
	</div>
</Panel>
