<script lang="ts">
	import { goto } from '$app/navigation';
	import Finding from '$lib/design/Finding.svelte';
	import Select from '$lib/design/Select.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Form from './Form.svelte';
	import type { PageProps } from './$types';

	/** What mastered, retained and thin evidence ask in a framework; what counts; what a retake does. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
</script>

<div class="small mb-1"><a class="word" href="/mastery">Mastery</a></div>
<Notice text={data.problem} />
{#if page}
	<Finding of="Rules" station="Mastery" beside={page.title} class="mb-3 max-w-[860px]" live>{page.finding}</Finding>
	{#if page.frameworks.length > 1}<label class="field mb-3 w-[320px]"
			>Framework<Select
				value={page.framework}
				choices={page.frameworks.map((f) => ({ value: f.id, label: f.title, more: f.own ? 'own rules' : '' }))}
				onchange={(framework) => goto(`/mastery/rules?framework=${framework}`)}
			/></label
		>{/if}
	{#key `${page.framework} ${page.revision}`}<Form {page} />{/key}
{/if}
