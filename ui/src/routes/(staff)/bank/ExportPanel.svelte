<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { choices } from '$lib/design/choices';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';

	/** Items out in an open format; what would be left behind is said before. */
	let { find, total }: { find: string; total: number } = $props();
	let way = $state<'qti' | 'sheet'>('qti');
	let look = $state<Schemas['ExportLook'] | null>(null);
	let problem = $state('');

	$effect(() => {
		const query = { find, way };
		let current = true;
		look = null;
		problem = '';
		body(api.GET('/api/bank/exports', { params: { query } }))
			.then((answer) => current && (look = answer))
			.catch((error) => current && (problem = said(error)));
		return () => (current = false);
	});
</script>

<Panel label="Export items" class="p-4">
	<div class="flex flex-wrap items-center gap-4">
		<h2>Export search results{total ? ` (${total})` : ''}</h2>
		<RadioGroup label="File type" bind:value={way} choices={choices(['qti', 'QTI 3.0 package'], ['sheet', 'CSV'])} />
		<span class="flex-1"></span>
		{#if look?.items}<Button
				kind="primary"
				href="/api/bank/exports/file?way={way}&find={encodeURIComponent(find)}"
				download>Download</Button
			>{/if}
	</div>
	{#if problem}<p class="mt-2 text-vermilion" role="alert">{problem}</p>{/if}
	{#if look}
		<p class="mt-2">{look.finding}</p>
		{#if look.misses.length}
			<Table within="mt-2 max-h-[220px]">
				<thead><tr><th class="w-[120px]">Item</th><th>Not included</th></tr></thead>
				<tbody
					>{#each look.misses as miss (miss.code)}<tr
							><td><code>{miss.code}</code></td><td>{miss.what.join('; ')}</td></tr
						>{/each}</tbody
				>
			</Table>
		{/if}
	{/if}
</Panel>
