<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { goto, invalidate } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import Whose from '$lib/parts/Whose.svelte';
	import SittingBar from '$lib/parts/SittingBar.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, day, time } from '$lib/words/show';
	import PlanForm from './PlanForm.svelte';
	import type { PageProps } from './$types';

	let { data: loaded }: PageProps = $props();
	const data = $derived(loaded.found);
	let problem = $derived(loaded.problem);
	let made = $state('');

	const chosen = $derived(staff.window(page.url.searchParams.get('window')));
	const planning = $derived(page.url.searchParams.get('plan'));
	const zone = $derived(staff.calendar?.zone ?? 'UTC');

	function plan(on: boolean) {
		const url = new URL(page.url);
		if (on) url.searchParams.set('plan', 'new');
		else url.searchParams.delete('plan');
		void goto(url, { replaceState: true, noScroll: true });
	}

	async function planned(ids: string[], windowId: string) {
		made = ids.length === 1 ? 'Session scheduled. Its code is in the list.' : `${ids.length} sessions scheduled.`;
		const url = new URL(page.url);
		url.searchParams.delete('plan');
		url.searchParams.set('window', windowId);
		await goto(url, { replaceState: true });
		await invalidate('bildung:sessions');
	}
	const who = $derived<[string, number, string][]>([
		['absent', data?.absent ?? 0, 'absent'],
		['to_come', data?.pending ?? 0, 'not submitted yet']
	]);
	const behind = (of: string, session?: string) =>
		body(
			api.GET('/api/sessions/whose', { params: { query: { of, session, window: session ? undefined : chosen?.id } } })
		);
</script>

<svelte:head><title>Sessions · Bildung</title></svelte:head>

<div class="small mb-1">
	{chosen
		? `${chosen.name}, ${day(chosen.start)} to ${day(chosen.end)}`
		: ''}{#each who as [of, n, words] (of)}{#if n}{' · '}<Whose
				title="{words[0]?.toUpperCase()}{words.slice(1)}"
				load={() => behind(of)}>{n} {words}</Whose
			>{/if}{/each}
</div>
<div class="mb-3 flex items-start gap-4">
	<h1 class="flex-1">{data?.finding ?? ''}</h1>
	{#if staff.may('sessions.plan')}<button class="btn" aria-expanded={!!planning} onclick={() => plan(!planning)}
			>Schedule sessions</button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if made}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{made}</p>{/if}
{#if planning}<PlanForm
		form={planning === 'new' ? '' : planning}
		window={chosen?.id ?? ''}
		onplanned={planned}
		onleave={() => plan(false)}
	/>{/if}
{#if data?.sessions.length}
	<section {@attach scrollable} class="sheet frozen max-h-[calc(100vh-150px)]">
		<table>
			<thead
				><tr
					><th>Class</th><th>Form</th><th>When</th><th>Room</th><th>Proctor</th><th>Code</th><th>Attempts</th><th
						>State</th
					></tr
				></thead
			>
			<tbody>
				{#each data.sessions as s (s.id)}
					<tr tabindex="-1" data-row onclick={() => goto(`/sessions/${s.id}?window=${s.window_id}`)}>
						<td><a class="word" href="/sessions/{s.id}?window={s.window_id}">{s.klass}</a></td>
						<td>{s.form}</td>
						<td class="whitespace-nowrap">{dateTime(s.start, zone)} to {time(s.end, zone)}</td>
						<td>{s.room}</td>
						<td>{s.proctor}</td>
						<td><code>{s.code}</code></td>
						<td><SittingBar counts={s.counts} load={() => behind('all', s.id)} /></td>
						<td class:font-semibold={s.phase === 'open'}>{s.phase}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{:else if data && !planning}
	<div class="sheet p-6 text-ink2">
		Sessions of this window appear here with class, time, room, code, and how many have submitted.
		{#if staff.may('sessions.plan')}<button class="word" onclick={() => plan(true)}>Schedule the first session</button
			>.{/if}
	</div>
{/if}
