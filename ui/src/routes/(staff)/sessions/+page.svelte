<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import { goto, invalidate } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day } from '$lib/words/show';
	import PlanForm from './PlanForm.svelte';
	import SessionTable from './SessionTable.svelte';
	import Standing from './Standing.svelte';
	import type { PageProps } from './$types';

	let { data: loaded }: PageProps = $props();
	const data = $derived(loaded.found);
	let problem = $derived(loaded.problem);
	let made = $state('');

	const chosen = $derived(staff.window(page.url.searchParams.get('window')));
	const planning = $derived(page.url.searchParams.get('plan'));

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
	async function done(says: string) {
		made = says;
		await invalidate('bildung:sessions');
	}
	const behind = (of: string, session?: string) =>
		body(
			api.GET('/api/sessions/whose', { params: { query: { of, session, window: session ? undefined : chosen?.id } } })
		);
</script>

<div class="mb-3 flex items-start gap-4">
	<Finding
		of="Sessions"
		beside={chosen ? `${chosen.name}, ${day(chosen.start)} to ${day(chosen.end)}` : ''}
		class="flex-1">{data?.finding ?? ''}</Finding
	>
	{#if staff.may('sessions.plan')}<Button aria-expanded={!!planning} onclick={() => plan(!planning)}
			>Schedule sessions</Button
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
{#if data?.participation?.whole.owed && chosen}<Standing of={data.participation} window={chosen.id} />{/if}
{#if data?.sessions.length}
	<SessionTable sessions={data.sessions} {behind} ondone={done} />
{:else if data && !planning}
	<div class="sheet p-6 text-ink2">
		Sessions of this window appear here with class, time, room, code, and how many have submitted.
		{#if staff.may('sessions.plan')}<button class="word" onclick={() => plan(true)}>Schedule the first session</button
			>.{/if}
	</div>
{/if}
