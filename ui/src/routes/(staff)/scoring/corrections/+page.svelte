<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said } from '$lib/api/client';
	import Finding from '$lib/design/Finding.svelte';
	import CorrectionList from '$lib/parts/CorrectionList.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import type { PageProps } from './$types';

	/** Everything that was corrected after it was taken, who decided it and what it moved. */
	let { data }: PageProps = $props();
	let problem = $derived(data.problem);

	async function undo(correction: string, why: string) {
		try {
			await body(
				api.POST('/api/corrections/{correction}/undo', { params: { path: { correction } }, body: { reason: why } })
			);
			await invalidate('bildung:corrections');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<div class="small mb-1"><a class="word" href="/scoring">Scoring</a></div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if data.page}
	<Finding of="Corrections" station="Scoring" class="mb-3">{data.page.finding}</Finding>
	{#if data.page.corrections.length}<CorrectionList lines={data.page.corrections} where onundo={undo} />
	{:else}<p class="max-w-[640px]">
			A key is corrected from the item in Item quality, a single score from the student's test. What would move is shown
			first; every total follows, and each correction can be undone.
		</p>{/if}
{/if}
