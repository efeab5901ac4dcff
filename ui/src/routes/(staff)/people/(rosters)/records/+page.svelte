<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import PreviewLines from '$lib/parts/PreviewLines.svelte';
	import { dateTime } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="mb-3 flex items-start gap-3">
	<Finding of="Records system" class="flex-1">{shown.data?.finding ?? ''}</Finding>
	{#if shown.busy}<span class="small self-center" role="status"
			>{shown.progress ? `${shown.progress.what}, ${shown.progress.done} of ${shown.progress.total}` : 'Asking …'}</span
		>{/if}
	{#if shown.data?.address && !shown.waiting}
		<Button disabled={shown.busy} onclick={() => shown.look(true)}>Full sync</Button>
		<Button kind="primary" disabled={shown.busy} onclick={() => shown.look(false)}>Sync now</Button>
	{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.waiting}
	<div
		class="sheet mb-3 flex flex-wrap items-center gap-3 border-l-4 border-l-vermilion px-4 py-3 text-[14px]"
		role="status"
	>
		<span class="min-w-[300px] flex-1"
			>{shown.waiting.message} If the records system is at fault, do nothing: the next sync tries again.</span
		>
		<Button disabled={shown.busy} onclick={() => shown.decide(false)}>Cancel</Button>
		<Button disabled={shown.busy} onclick={() => shown.decide(true)}>Import as it is now</Button>
	</div>
{/if}
{#if shown.data && !shown.data.address}
	<p class="sheet p-6 text-ink2">
		Enter its address under <a class="word" href="/people/settings">Settings</a>. Any system that supports OneRoster 1.2
		works.
	</p>
{:else if shown.data}
	<Panel label="Sync history" class="mb-3 px-4 py-3">
		<div class="small mb-2">
			{#if shown.data.on && shown.data.next_at}Syncs every night; next {dateTime(
					shown.data.next_at,
					shown.zone
				)}.{:else}Syncs only when you start it; the nightly sync is off under Settings.{/if}
			Each column is one sync, the newest at the right; its height is the number of changes.
		</div>
		<div class="flex h-[70px] items-end gap-1 border-b border-hair">
			{#each [...shown.data.runs].reverse() as r (r.id)}
				<button
					class="flex w-9 cursor-pointer flex-col items-center justify-end text-[11px] {shown.data.shown?.id === r.id
						? 'font-bold'
						: 'text-ink2'}"
					style:height="70px"
					title="{dateTime(r.at, shown.zone)}: {shown.WORDS[r.state]}, {shown.moves(r)} changed"
					aria-pressed={shown.data.shown?.id === r.id}
					onclick={() => shown.open(r.id)}
				>
					<span>{r.state === 'failed' ? 'failed' : shown.moves(r)}</span>
					<span
						class="block w-6 {r.state === 'waiting' || r.state === 'left'
							? 'border border-dashed border-ink2'
							: r.state === 'failed'
								? 'border-t-2 border-vermilion'
								: 'bg-relief2'}"
						style:height="{shown.height(shown.moves(r))}px"
					></span>
				</button>
			{:else}<span class="small self-center">No sync yet.</span>{/each}
		</div>
	</Panel>
	{#if shown.data.shown}
		<Panel label="What changed" class="px-4 py-3">
			<h2>
				{dateTime(shown.data.shown.at, shown.zone)}: {shown.WORDS[shown.data.shown.state]}{shown.data.shown.by
					? `, started by ${shown.data.shown.by}`
					: ', automatic'}{shown.data.shown.bulk ? '; full sync' : '; changes since the look before'}
			</h2>
			{#if shown.data.shown.message && shown.data.shown.state !== 'waiting'}<p class="mt-1 text-[14px]">
					{shown.data.shown.message}
				</p>{/if}
			<PreviewLines
				counts={shown.data.shown.counts}
				lines={shown.data.lines}
				applied={['done', 'taken'].includes(shown.data.shown.state)}
			/>
		</Panel>
	{/if}
{/if}
