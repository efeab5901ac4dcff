<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, said } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** What scorers passed on because it tells of harm, for those it went to. */
	let { data }: PageProps = $props();
	let problem = $derived(data.problem);
	const outcome = $state<Record<string, string>>({});
	const zone = $derived(staff.calendar?.zone ?? 'UTC');

	async function close(id: string) {
		try {
			await api.POST('/api/scoring/alerts/{alert}/close', {
				params: { path: { alert: id } },
				body: { outcome: outcome[id] ?? '' }
			});
			await invalidate('bildung:alerts');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Notice text={problem} onclose={() => (problem = '')} />
{#if data.page}
	<Finding of="Safety alerts" station="Scoring">{data.page.finding}</Finding>
	{#each data.page.lines as line, at (line.id)}
		<Panel
			label="Alert about {staff.name(line.student, at)}"
			class="mt-3 px-5 py-4 {line.closed ? '' : 'border-l-4 border-l-vermilion'}"
		>
			<div class="flex flex-wrap items-baseline gap-3">
				<h2 class="flex-1 text-[17px]">
					{staff.name(line.student, at)}<span class="ml-2 font-normal text-ink2"
						>grade {line.grade}, {line.klass}, {line.school}</span
					>
				</h2>
				<span class="small">{dateTime(line.at, zone)}, {line.raised_by}</span>
			</div>
			<blockquote class="my-3 border-l-4 border-hair pl-3 text-[16px] whitespace-pre-wrap">{line.words}</blockquote>
			<p class="small">{line.test}, item {line.item}. Sent to {line.to.join(', ')}; no one else can read it here.</p>
			{#if line.closed}<p class="mt-2 text-[15px]">{line.closed}<span class="small">, {line.closed_by}</span></p>
			{:else}
				<form
					class="mt-3 flex items-end gap-2"
					onsubmit={(event) => {
						event.preventDefault();
						void close(line.id);
					}}
				>
					<label class="field flex-1"
						>What was done<input class="input" required maxlength="1000" bind:value={outcome[line.id]} /></label
					>
					<Button type="submit" kind="primary">Note it and close</Button>
				</form>
			{/if}
		</Panel>
	{/each}
{/if}
