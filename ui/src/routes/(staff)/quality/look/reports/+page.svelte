<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import { choices } from '$lib/design/choices';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';
	import ReportList from '../../ReportList.svelte';
	import { address } from '../address.svelte';

	/** Reports by the question they answer, each on a live sample of what is looked at; long ones are made meanwhile. */
	let questions = $state<Schemas['ReportQuestionOut'][]>([]);
	let problem = $state('');
	let size = $state<'A4' | 'Letter'>('A4');
	let fresh = $state(0);
	let loading = $state(true);
	let broken = $state('');
	const chosen = $derived(questions.find((q) => q.name === address.get('question')) ?? questions[0] ?? null);
	const sample = $derived(
		chosen
			? address.href('/api/quality/sample', {
					question: chosen.name,
					of: address.get('of'),
					veiled: staff.veiled ? 'true' : null,
					size
				})
			: ''
	);

	$effect(() => {
		body(api.GET('/api/quality/questions'))
			.then((found) => (questions = found))
			.catch((error) => (problem = said(error)));
	});
	$effect(() => {
		void sample;
		loading = true;
		broken = '';
	});

	async function failed() {
		loading = false;
		const answer = await fetch(sample);
		broken = answer.ok ? '' : ((await answer.json().catch(() => ({}))).detail ?? 'No sample can be shown.');
	}
	async function make(format: 'pdf' | 'xlsx') {
		if (!chosen) return;
		problem = '';
		try {
			await body(
				api.POST('/api/quality/reports', {
					params: { query: address.scope },
					body: { question: chosen.name, format, size, veiled: staff.veiled, of: address.get('of') ?? '' }
				})
			);
			fresh++;
		} catch (error) {
			problem = said(error);
		}
	}
	const some = $derived(address.all('student').length);
</script>

<Finding of="Reports" station="Item quality" class="mb-3"
	>{chosen ? chosen.asks : 'Choose a question to report on.'}</Finding
>
{#if problem}<p class="mb-2 border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
<div class="grid grid-cols-[300px_minmax(0,1fr)_minmax(0,320px)] items-start gap-3">
	<Panel label="Which question" class="p-2">
		{#each questions as q (q.name)}
			<button
				class="block w-full cursor-pointer rounded px-2 py-2 text-left text-[13.5px] hover:bg-wash {chosen?.name ===
				q.name
					? 'bg-wash'
					: ''}"
				aria-pressed={chosen?.name === q.name}
				onclick={() => address.set({ question: q.name })}
				><b class="font-semibold">{q.asks}</b><span class="small block">{q.says}</span></button
			>
		{/each}
	</Panel>
	<Panel label="Sample" class="p-3">
		<div class="mb-2 flex flex-wrap items-center gap-2">
			<RadioGroup label="Paper size" bind:value={size} choices={choices('A4', 'Letter')} />
			<span class="small flex-1"
				>{some ? `${some} chosen ${some === 1 ? 'student' : 'students'} only` : ''}{chosen?.named
					? `${some ? '; ' : ''}${staff.veiled ? 'names hidden' : 'includes student names'}`
					: ''}</span
			>
			<Button disabled={!chosen} onclick={() => make('xlsx')}>Create XLSX</Button>
			<Button kind="primary" disabled={!chosen} onclick={() => make('pdf')}>Create PDF</Button>
		</div>
		<div class="relative min-h-[420px] bg-hair p-3">
			{#if broken}<p class="sheet p-4 text-ink2">{broken[0]?.toUpperCase()}{broken.slice(1)}.</p>
			{:else if sample}<img
					src={sample}
					alt="First page of the report for this view"
					class="block w-full bg-sheet {loading ? 'opacity-40' : ''}"
					onload={() => (loading = false)}
					onerror={failed}
				/>{/if}
			{#if loading}<p class="small absolute inset-x-0 top-6 text-center" role="status">Laying out a sample …</p>{/if}
		</div>
		<p class="small mt-2">
			The first page, with a few items or students only. The full report is created in the background; you can leave
			this page.
		</p>
	</Panel>
	<Panel label="Saved reports" class="px-4 py-2">
		<h2 class="mt-1">Saved</h2>
		<ReportList {fresh} />
	</Panel>
</div>
