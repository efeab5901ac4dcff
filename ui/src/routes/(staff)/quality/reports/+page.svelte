<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import type { Schemas } from '$lib/api/client';
	import ReportList from '../ReportList.svelte';

	/** Every report of one's own, wherever it was asked for. */
	let reports = $state<Schemas['ReportLine'][] | null>(null);
	const making = $derived(reports?.filter((r) => r.state === 'making').length ?? 0);
	const kept = $derived(reports?.filter((r) => r.state === 'done').length ?? 0);
	const finding = $derived(
		[
			`${kept || 'No'} ${kept === 1 ? 'report' : 'reports'} saved`,
			making ? `${making} ${making === 1 ? 'is' : 'are'} in progress` : ''
		]
			.filter(Boolean)
			.join(', ')
	);
</script>

<div class="small mb-1"><a class="word" href="/quality">Item quality</a> · reports</div>
<Finding of="Reports" station="Item quality" class="mb-1">{reports ? `${finding}.` : ''}</Finding>
<p class="small mb-3">Create reports from a test, under Reports.</p>
<Panel label="Reports" class="px-4 py-2"><ReportList bind:reports /></Panel>
