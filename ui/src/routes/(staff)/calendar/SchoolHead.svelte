<script lang="ts">
	import type { Snippet } from 'svelte';
	import { goto, invalidate } from '$app/navigation';
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Select from '$lib/design/Select.svelte';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';

	/** The head of a page of what one school plans with: the finding, the school, and bringing it in from a file. */
	let {
		of,
		path,
		page,
		hint,
		paste,
		reload,
		imports = page.may,
		problem = $bindable(),
		children
	}: {
		of: string;
		/** of this page, which takes the school */
		path: string;
		page: { finding: string; school: string; schools: Schemas['Ref'][]; may: boolean };
		/** what a file may hold, and a table to paste as an example */
		hint: string;
		paste: string;
		/** what is read again after an import */
		reload: string;
		imports?: boolean;
		problem: string;
		children?: Snippet;
	} = $props();
	let importing = $state(false);
</script>

<div class="mb-3 flex items-start gap-3">
	<Finding {of} station="Calendar" class="flex-1">{page.finding}</Finding>
	{#if page.schools.length > 1}<Select
			class="w-[210px]"
			label="School"
			value={page.school}
			choices={page.schools.map((s) => ({ value: s.id, label: s.name }))}
			onchange={(school) => goto(`${path}?school=${school}`)}
		/>{/if}
	{#if imports}<Button onclick={() => (importing = !importing)}>{importing ? 'Close import' : 'Import'}</Button>{/if}
	{@render children?.()}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if importing}
	<div class="mb-3">
		<ImportPanel
			kind="resources"
			of={page.school}
			accept=".csv,.tsv,.txt,.xlsx"
			{hint}
			{paste}
			onapplied={() => invalidate(reload)}
		/>
	</div>
{/if}
