<script lang="ts">
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

<svelte:head><title>Reports · Item quality · Bildung</title></svelte:head>

<div class="small mb-1"><a class="word" href="/quality">Item quality</a> · reports</div>
<h1 class="mb-1">{reports ? `${finding}.` : ''}</h1>
<p class="small mb-3">Create reports from a test, under Reports.</p>
<section class="sheet px-4 py-2" aria-label="Reports"><ReportList bind:reports /></section>
