<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { follow, newJob } from '$lib/parts/imports';
	import Notice from '$lib/parts/Notice.svelte';
	import PreviewLines from '$lib/parts/PreviewLines.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';

	/** The school's records system: what changed at each look, and what waits for a decision. */
	let data = $state<Schemas['RecordsPage'] | null>(null);
	let problem = $state('');
	let busy = $state(false);
	let progress = $state<Schemas['JobOut'] | null>(null);
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const waiting = $derived(data?.runs.find((r) => r.state === 'waiting'));
	const WORDS: Record<string, string> = {
		done: 'taken',
		taken: 'taken after all',
		waiting: 'waits',
		left: 'left',
		failed: 'failed'
	};
	const height = (n: number) => (n ? Math.min(44, 6 + Math.sqrt(n) * 4) : 1);

	onMount(load);
	async function load() {
		const run = page.url.searchParams.get('run') ?? undefined;
		try {
			data = await body(api.GET('/api/records', { params: { query: { run } } }));
		} catch (error) {
			problem = said(error);
		}
	}
	async function look(bulk: boolean) {
		busy = true;
		problem = '';
		const job = newJob();
		const stop = follow(job, (p) => (progress = p));
		try {
			await api.POST('/api/records/look', { params: { query: { job } }, body: { bulk } });
			await goto('/people/records', { replaceState: true });
		} catch (error) {
			problem = said(error);
		}
		stop();
		progress = null;
		busy = false;
		await load();
	}
	async function decide(take: boolean) {
		busy = true;
		try {
			await api.POST('/api/records/{run_id}/decide', {
				params: { path: { run_id: waiting?.id ?? '' } },
				body: { take }
			});
		} catch (error) {
			problem = said(error);
		}
		busy = false;
		await load();
	}
	const open = (id: string) => goto(`?run=${id}`, { keepFocus: true, noScroll: true }).then(load);
	const moves = (r: Schemas['RunLine']) => (r.counts.added ?? 0) + (r.counts.changed ?? 0);
</script>

<svelte:head><title>Records system · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">{data?.finding ?? ''}</h1>
	{#if busy}<span class="small self-center" role="status"
			>{progress ? `${progress.what}, ${progress.done} of ${progress.total}` : 'Asking …'}</span
		>{/if}
	{#if data?.address && !waiting}
		<button class="btn" disabled={busy} onclick={() => look(true)}>Ask for everything</button>
		<button class="btn primary" disabled={busy} onclick={() => look(false)}>Ask for changes now</button>
	{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if waiting}
	<div
		class="sheet mb-3 flex flex-wrap items-center gap-3 border-l-4 border-l-vermilion px-4 py-3 text-[14px]"
		role="status"
	>
		<span class="min-w-[300px] flex-1"
			>{waiting.message} If it is a fault over there, leave it: the next look asks again.</span
		>
		<button class="btn" disabled={busy} onclick={() => decide(false)}>Leave it</button>
		<button class="btn" disabled={busy} onclick={() => decide(true)}>Take it as it is now</button>
	</div>
{/if}
{#if data && !data.address}
	<p class="sheet p-6 text-ink2">
		Name its address under <a class="word" href="/people/settings">Settings</a>. Any system that speaks OneRoster 1.2
		will do.
	</p>
{:else if data}
	<section class="sheet mb-3 px-4 py-3" aria-label="Looks so far">
		<div class="small mb-2">
			{#if data.on && data.next_at}Asked every night; next {dateTime(data.next_at, zone)}.{:else}Asked by hand only; the
				nightly look is off in the settings.{/if}
			Each column is one look, the newest at the right: as high as what it changed.
		</div>
		<div class="flex h-[70px] items-end gap-1 border-b border-hair">
			{#each [...data.runs].reverse() as r (r.id)}
				<button
					class="flex w-9 cursor-pointer flex-col items-center justify-end text-[11px] {data.shown?.id === r.id
						? 'font-bold'
						: 'text-ink2'}"
					style:height="70px"
					title="{dateTime(r.at, zone)}: {WORDS[r.state]}, {moves(r)} changed"
					aria-pressed={data.shown?.id === r.id}
					onclick={() => open(r.id)}
				>
					<span>{r.state === 'failed' ? 'failed' : moves(r)}</span>
					<span
						class="block w-6 {r.state === 'waiting' || r.state === 'left'
							? 'border border-dashed border-ink2'
							: r.state === 'failed'
								? 'border-t-2 border-vermilion'
								: 'bg-relief2'}"
						style:height="{height(moves(r))}px"
					></span>
				</button>
			{:else}<span class="small self-center">No look yet.</span>{/each}
		</div>
	</section>
	{#if data.shown}
		<section class="sheet px-4 py-3" aria-label="What changed">
			<h2>
				{dateTime(data.shown.at, zone)}: {WORDS[data.shown.state]}{data.shown.by
					? `, asked by ${data.shown.by}`
					: ', by itself'}{data.shown.bulk ? '; everything was asked for' : '; changes since the look before'}
			</h2>
			{#if data.shown.message && data.shown.state !== 'waiting'}<p class="mt-1 text-[14px]">
					{data.shown.message}
				</p>{/if}
			<PreviewLines
				counts={data.shown.counts}
				lines={data.lines}
				applied={['done', 'taken'].includes(data.shown.state)}
			/>
		</section>
	{/if}
{/if}
