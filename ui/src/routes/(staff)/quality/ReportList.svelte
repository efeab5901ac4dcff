<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { sure } from '$lib/design/questions.svelte';
	import { onMount } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { moment } from '$lib/words/show';

	/** Reports that were asked for: how far they are, and their files. Asks again while one is being made. */
	let { fresh = 0, reports = $bindable(null) }: { fresh?: number; reports?: Schemas['ReportLine'][] | null } = $props();
	let problem = $state('');
	let timer: ReturnType<typeof setTimeout> | undefined;

	async function load() {
		clearTimeout(timer);
		try {
			reports = await body(api.GET('/api/quality/reports'));
			problem = '';
		} catch (error) {
			problem = said(error);
		}
		if (reports?.some((r) => r.state === 'making')) timer = setTimeout(() => void load(), 900);
	}
	$effect(() => {
		void fresh;
		void load();
	});
	onMount(() => () => clearTimeout(timer));

	async function drop(r: Schemas['ReportLine']) {
		const says = 'Its file is deleted. You can create the report again.';
		if (r.state === 'done' && !(await sure({ title: `Delete “${r.title}”?`, says, yes: 'Delete' }))) return;
		try {
			await api.DELETE('/api/quality/reports/{report_id}', { params: { path: { report_id: r.id } } });
		} catch (error) {
			problem = said(error);
		}
		await load();
	}
</script>

{#if problem}<p class="text-vermilion">{problem}</p>{/if}
{#each reports ?? [] as r (r.id)}
	<div class="flex min-h-[42px] items-center gap-3 border-b border-hair2 py-1 text-[13.5px] last:border-b-0">
		<div class="min-w-0 flex-1">
			{#if r.state === 'done'}<a
					class="word font-semibold"
					href="/api/quality/reports/{r.id}/file"
					target={r.format === 'pdf' ? '_blank' : undefined}
					rel="noreferrer">{r.title}</a
				>{:else}<b class="font-semibold">{r.title}</b>{/if}
			<span class="small block truncate"
				>{[
					r.where,
					r.format === 'pdf' ? (r.pages ? `PDF, ${r.pages} ${r.pages === 1 ? 'page' : 'pages'}` : 'PDF') : 'XLSX',
					r.named ? 'includes student names' : r.veiled ? 'names hidden' : '',
					moment(r.created_at)
				]
					.filter(Boolean)
					.join(' · ')}</span
			>
		</div>
		<span class="text-right text-[12.5px] {r.state === 'failed' ? 'text-vermilion' : 'text-ink2'}" role="status"
			>{r.state === 'making'
				? `${r.what || 'waiting its turn'}${r.total ? `, ${r.done} of ${r.total}` : ''}`
				: r.state === 'done'
					? ''
					: r.says}</span
		>
		<Button
			kind="quiet"
			class="min-h-[26px]"
			aria-label="{r.state === 'making' ? 'Stop' : 'Delete'} {r.title}"
			onclick={() => drop(r)}>{r.state === 'making' ? 'Stop' : '×'}</Button
		>
	</div>
{:else}<p class="small py-2">{reports ? 'No reports yet. Reports stay here until you delete them.' : '…'}</p>{/each}
