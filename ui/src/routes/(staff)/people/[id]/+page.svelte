<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, STATE_WORDS } from '$lib/words/show';

	/** One person: classes, own code, every sitting. */
	let data = $state<Schemas['PersonPageOut'] | null>(null);
	let problem = $state('');
	let temporary = $state('');
	const id = $derived(page.params.id ?? '');
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const hidden = (text: string) => (staff.veiled && data?.person.student ? text.replaceAll(data.person.name, staff.name(data.person.name, 0)) : text);

	async function load() {
		try {
			data = await body(api.GET('/api/people/{person_id}', { params: { path: { person_id: id } } }));
		} catch (error) {
			problem = said(error);
		}
	}
	onMount(load);

	async function newCode() {
		if (!data || !confirm(`Give ${data.person.name} a new own code? The old one opens nothing from then on.`)) return;
		try {
			const made = await body(api.POST('/api/people/{person_id}/code', { params: { path: { person_id: id } } }));
			data.person.code = made.code;
		} catch (error) {
			problem = said(error);
		}
	}
	async function reset() {
		if (!data || !confirm(`Reset the password of ${data.person.name}? They are signed out everywhere.`)) return;
		try {
			temporary = (await body(api.POST('/api/people/{person_id}/password', { params: { path: { person_id: id } } }))).password;
		} catch (error) {
			problem = said(error);
		}
	}
	async function exportRecord() {
		try {
			const made = await body(api.POST('/api/people/{person_id}/record', { params: { path: { person_id: id } } }));
			const link = document.createElement('a');
			link.href = URL.createObjectURL(new Blob([JSON.stringify(made.record, null, 1)], { type: 'application/json' }));
			link.download = `record-${data?.source_id}.json`;
			link.click();
			URL.revokeObjectURL(link.href);
		} catch (error) {
			problem = said(error);
		}
	}

	async function erase() {
		const why = prompt(`Erase ${data?.person.name}? Name, ids, code and classes are lost for good; answers stay without a name, for item statistics. Say why; it is kept in the log.`);
		if (why === null) return;
		try {
			await api.POST('/api/people/{person_id}/erase', { params: { path: { person_id: id } }, body: { why } });
			await goto('/people');
		} catch (error) {
			problem = said(error);
		}
	}
	const FILL: Record<string, string> = { handed_in: 'var(--color-relief5)', answering: 'var(--color-relief3)', not_started: 'var(--color-relief2)' };
</script>

<svelte:head><title>{hidden(data?.person.name ?? 'Person')} · Bildung</title></svelte:head>

<Notice text={problem} onclose={() => (problem = '')} />
{#if data}
	<div class="small mb-1"><a class="word" href="/people">People</a> · {data.person.school || 'the federation'} · <code>{data.source_id}</code></div>
	<h1 class="mb-3">{hidden(data.finding)}</h1>
	<div class="grid grid-cols-[minmax(0,1fr)_260px] items-start gap-3">
		<section class="sheet" aria-label="Sittings">
			{#if data.sittings.length}
				<table>
					<thead><tr><th>Test</th><th>Window</th><th>Class</th><th>When</th><th>State</th></tr></thead>
					<tbody>
						{#each data.sittings as s (s.session_id)}
							<tr tabindex="-1" data-row onclick={() => goto(`/sessions/${s.session_id}`)}>
								<td><a class="word" href="/sessions/{s.session_id}">{s.form}</a></td>
								<td>{s.window}</td>
								<td>{s.klass}</td>
								<td>{dateTime(s.at, zone)}</td>
								<td><svg width="12" height="12" class="mr-1.5 inline" aria-hidden="true"><rect width="12" height="12" fill={FILL[s.state] ?? '#fff'} stroke="var(--color-ink2)" stroke-dasharray={FILL[s.state] ? undefined : '2 2'} /></svg>{STATE_WORDS[s.state]}</td>
							</tr>
						{/each}
					</tbody>
				</table>
			{:else}<p class="p-6 text-ink2">{data.person.student ? 'No test yet. Sittings stand here from the day a session is planned.' : 'Staff have no sittings.'}</p>{/if}
		</section>
		<section class="sheet p-4 text-[14px]">
			{#if data.person.student}
				<div class="small">Own code</div>
				<div class="font-mono text-[24px] tracking-[0.14em]">{staff.veiled ? '·····' : data.person.code}</div>
				{#if data.may_settle}<button class="btn mt-1 mb-3" onclick={newCode}>New code for a lost card</button>{/if}
			{:else}
				<div class="small">Signs in as</div>
				<div class="mb-1">{data.username ?? 'no user name in the records'}</div>
				{#if temporary}
					<p class="mb-3 rounded bg-wash p-2">Temporary password, told once: <code class="block text-[17px] select-all">{temporary}</code> Good for nothing but choosing an own one.</p>
				{:else if data.username && staff.may('accounts.reset')}<button class="btn mb-3" onclick={reset}>Reset the password</button>{/if}
			{/if}
			{#if data.person.student && staff.may('records.handle')}
				<div class="small mb-1">The whole record, on request</div>
				<div class="mb-3 flex gap-2"><button class="btn" onclick={exportRecord}>Export</button><button class="btn" onclick={erase}>Erase</button></div>
			{/if}
			<div class="small">Classes</div>
			{#each data.classes as c (c.name)}<div>{c.name}{c.value === 'teacher' ? ', teaches it' : ''}</div>{:else}<div class="text-ink2">none</div>{/each}
		</section>
	</div>
{/if}
