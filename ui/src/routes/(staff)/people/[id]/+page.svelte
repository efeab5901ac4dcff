<script lang="ts">
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, day, STATE_WORDS } from '$lib/words/show';

	/** One person: classes, own code, every sitting. */
	let data = $state<Schemas['PersonPage'] | null>(null);
	let problem = $state('');
	let temporary = $state('');
	const id = $derived(page.params.id ?? '');
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const hidden = (text: string) =>
		staff.veiled && data?.person.student ? text.replaceAll(data.person.name, staff.name(data.person.name, 0)) : text;

	async function load() {
		try {
			data = await body(api.GET('/api/people/{person_id}', { params: { path: { person_id: id } } }));
		} catch (error) {
			problem = said(error);
		}
	}
	$effect(() => {
		void id;
		needs = family = null;
		told = temporary = '';
		void load();
	});

	async function newCode() {
		if (!data) return;
		try {
			const made = await body(api.POST('/api/people/{person_id}/code', { params: { path: { person_id: id } } }));
			data.person.code = made.code;
		} catch (error) {
			problem = said(error);
		}
	}
	async function reset() {
		try {
			temporary = (await body(api.POST('/api/people/{person_id}/password', { params: { path: { person_id: id } } })))
				.password;
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

	async function erase(why: string) {
		try {
			await api.POST('/api/people/{person_id}/erase', { params: { path: { person_id: id } }, body: { why } });
			await goto('/people');
		} catch (error) {
			problem = said(error);
		}
	}
	/** Something changed on the server: do it, then look again. */
	async function go(work: Promise<unknown>) {
		problem = '';
		try {
			await work;
			await load();
			return true;
		} catch (error) {
			problem = said(error);
			return false;
		}
	}
	let needs = $state<Schemas['NeedsBody'] | null>(null);
	let family = $state<{ given: string; family: string; username: string; relation: string } | null>(null);
	let told = $state('');
	let role = $state({ role: 'teacher', school_id: '' });
	let schools = $state<Schemas['Ref'][]>([]);
	const path = $derived({ path: { person_id: id } });
	const YES_NO = [
		['small_group', 'small group'],
		['own_proctor', 'own proctor'],
		['read_aloud', 'read aloud'],
		['large_print', 'large print'],
		['breaks', 'breaks']
	] as const;
	const ROLES = ['coordinator', 'teacher', 'specialist', 'proctor', 'writer'];

	async function saveNeeds(event: SubmitEvent) {
		event.preventDefault();
		if (needs && (await go(api.PUT('/api/people/{person_id}/needs', { params: path, body: needs })))) needs = null;
	}
	async function addFamily(event: SubmitEvent) {
		event.preventDefault();
		if (!family) return;
		try {
			const made = await body(api.POST('/api/people/{person_id}/families', { params: path, body: family }));
			told = made.password ? `${family.username}: ${made.password}` : '';
			family = null;
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
	async function openRoles() {
		if (schools.length || !staff.may('years.read')) return;
		schools = (await body(api.GET('/api/year')))?.schools ?? [];
		role.school_id = schools.find((s) => s.name === data?.person.school)?.id ?? '';
	}
	$effect(() => {
		if (data?.may_grant) void openRoles().catch(() => {});
	});
	const account = (account_id: string, yes: boolean | null) =>
		go(
			yes === null
				? api.DELETE('/api/people/accounts/{account_id}', { params: { path: { account_id } } })
				: api.POST('/api/people/accounts/{account_id}', { params: { path: { account_id } }, body: { yes } })
		);
	const grant = () =>
		go(
			api.POST('/api/people/{person_id}/roles', {
				params: path,
				body: { role: role.role, school_id: role.school_id || null }
			})
		);
	const FILL: Record<string, string> = {
		handed_in: 'var(--color-relief5)',
		answering: 'var(--color-relief3)',
		not_started: 'var(--color-relief2)'
	};
</script>

<svelte:head><title>{hidden(data?.person.name ?? 'Person')} · Bildung</title></svelte:head>

<Notice text={problem} onclose={() => (problem = '')} />
{#if data}
	<div class="small mb-1">
		{data.person.school || 'the federation'} ·
		<code>{staff.veiled && data.person.student ? '·····' : data.source_id}</code>
	</div>
	<h1 class="mb-3">{hidden(data.finding)}</h1>
	<div class="grid grid-cols-[minmax(0,1fr)_310px] items-start gap-3">
		<div class="flex flex-col gap-3">
			{#if data.person.kind === 'staff'}
				<section class="sheet" aria-label="Classes">
					<table>
						<thead><tr><th>Class</th><th>As</th><th>From</th><th>To</th></tr></thead>
						<tbody>
							{#each data.classes as c (c.id)}
								<tr tabindex="-1" data-row onclick={() => goto(`/people/classes/${c.id}`)}>
									<td><a class="word" href="/people/classes/{c.id}">{c.title}</a></td><td>{c.role}</td><td
										>{c.begins ? day(c.begins) : ''}</td
									><td>{c.active ? '' : c.ends ? day(c.ends) : 'no longer'}</td>
								</tr>
							{:else}<tr
									><td colspan="4" class="text-ink2"
										>No class. Classes come with the roster, or from the roster check.</td
									></tr
								>{/each}
						</tbody>
					</table>
				</section>
			{:else}
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
										<td
											><svg width="12" height="12" class="mr-1.5 inline" aria-hidden="true"
												><rect
													width="12"
													height="12"
													fill={FILL[s.state] ?? '#fff'}
													stroke="var(--color-ink2)"
													stroke-dasharray={FILL[s.state] ? undefined : '2 2'}
												/></svg
											>{STATE_WORDS[s.state]}</td
										>
									</tr>
								{/each}
							</tbody>
						</table>
					{:else}<p class="p-6 text-ink2">
							{data.person.student
								? 'No test yet. Sittings stand here from the day a session is planned.'
								: 'Families see the tests of their own children.'}
						</p>{/if}
				</section>
			{/if}
			<div class="grid grid-cols-2 items-start gap-3">
				{#if data.person.student && data.needs}
					<section class="sheet p-4 text-[14px]" aria-label="Needs">
						<div class="small">Needs when sitting a test</div>
						{#if needs}
							<form class="flex flex-col gap-2" onsubmit={saveNeeds}>
								<label class="field"
									>Time, as a factor; 1.25 is a quarter more<input
										class="input !w-28"
										type="number"
										min="1"
										max="4"
										step="0.05"
										bind:value={needs.extra_time}
									/></label
								>
								{#each YES_NO as [key, words] (key)}<label class="flex items-center gap-2"
										><input type="checkbox" class="size-5" bind:checked={needs[key]} />{words}</label
									>{/each}
								<label class="field"
									>Form<select class="input" bind:value={needs.form_kind}
										><option value="">general</option><option value="shortened">shortened</option><option
											value="adapted">adapted</option
										></select
									></label
								>
								<label class="field"
									>Directions in<input
										class="input"
										bind:value={needs.language}
										maxlength="40"
										placeholder="the school's language"
									/></label
								>
								<label class="field">Note<input class="input" bind:value={needs.note} maxlength="400" /></label>
								<div class="flex gap-2">
									<button class="btn primary">Keep</button><button
										type="button"
										class="btn"
										onclick={() => (needs = null)}>Leave it</button
									>
								</div>
							</form>
						{:else}
							<div class="mb-1">{staff.veiled ? '·····' : data.needs_said || 'nothing is entered'}</div>
							{#if data.needs.note && !staff.veiled}<p class="small">{data.needs.note}</p>{/if}
							{#if data.may_support}<button class="btn" onclick={() => data?.needs && (needs = { ...data.needs })}
									>Change</button
								>{/if}
						{/if}
					</section>
				{/if}
				{#if data.person.student && data.needs}
					<section class="sheet p-4 text-[14px]" aria-label="Family">
						<div class="small">Family</div>
						{#each data.families as f (f.id)}
							<div class="flex flex-wrap items-center gap-2">
								<span class="flex-1"
									>{staff.veiled ? 'a family' : f.name}{f.relation ? `, ${f.relation}` : ''}<span class="small block"
										>{f.last_sign_in_at ? `signed in ${dateTime(f.last_sign_in_at, zone)}` : 'never signed in'}</span
									></span
								>
								{#if staff.may('accounts.reset')}<a class="btn quiet" href="/people/{f.id}">Open</a><Ask
										quiet
										label="Unlink"
										question="{f.name} sees this child no more, from now on."
										yes="Unlink"
										onyes={async () =>
											void (await go(
												api.DELETE('/api/people/{person_id}/families/{family_id}', {
													params: { path: { person_id: id, family_id: f.id } }
												})
											))}
									/>{/if}
							</div>
						{:else}<div class="text-ink2">none is linked</div>{/each}
						{#if told}<p class="mt-2 rounded bg-wash p-2">
								Temporary password, told once: <code class="block text-[15px] select-all">{told}</code>
							</p>{/if}
						{#if family}
							<form class="mt-2 flex flex-col gap-2" onsubmit={addFamily}>
								<label class="field">Given name<input class="input" bind:value={family.given} required /></label>
								<label class="field">Family name<input class="input" bind:value={family.family} required /></label>
								<label class="field"
									>User name; one that is here already is linked<input
										class="input"
										bind:value={family.username}
										required
									/></label
								>
								<label class="field"
									>Relation<input class="input" bind:value={family.relation} placeholder="parent, guardian" /></label
								>
								<div class="flex gap-2">
									<button class="btn primary">Link them</button><button
										type="button"
										class="btn"
										onclick={() => (family = null)}>Leave it</button
									>
								</div>
							</form>
						{:else if staff.may('accounts.reset')}<button
								class="btn mt-2"
								onclick={() => (family = { given: '', family: '', username: '', relation: '' })}>Link a family</button
							>{/if}
					</section>
				{/if}
				{#if data.may_grant}
					<section class="sheet p-4 text-[14px]" aria-label="Roles">
						<div class="small">May do, and where</div>
						{#each data.roles as r (r.id)}<div class="flex flex-wrap items-center gap-2">
								<span class="flex-1">{r.role}, {r.school}</span><Ask
									quiet
									label="Take back"
									question="{data.person.name} is no longer {r.role} of {r.school}, from now on."
									yes="Take it back"
									onyes={async () =>
										void (await go(api.DELETE('/api/people/roles/{role_id}', { params: { path: { role_id: r.id } } })))}
								/>
							</div>{:else}<div class="text-ink2">nothing</div>{/each}
						<div class="mt-2 flex flex-wrap items-end gap-2">
							<select class="input !mt-0 !w-auto" aria-label="Role" bind:value={role.role}
								>{#each ROLES as r (r)}<option>{r}</option>{/each}</select
							>
							<select class="input !mt-0 !w-auto max-w-[150px]" aria-label="Where" bind:value={role.school_id}
								><option value="">the federation</option>{#each schools as s (s.id)}<option value={s.id}
										>{s.name}</option
									>{/each}</select
							>
							<button class="btn" onclick={grant}>Give this role</button>
						</div>
					</section>
				{/if}
			</div>
		</div>
		<section class="sheet p-4 text-[14px]">
			{#if data.person.student}
				<div class="small">Own code</div>
				<div class="font-mono text-[24px] tracking-[0.14em]">{staff.veiled ? '·····' : data.person.code}</div>
				{#if data.may_settle}<div class="mt-1 mb-3">
						<Ask
							label="New code for a lost card"
							question="The old code opens nothing from then on."
							yes="Make a new one"
							onyes={newCode}
						/>
					</div>{/if}
			{:else}
				<div class="small">Signs in as</div>
				<div class="mb-1">{data.username ?? 'no user name in the records'}</div>
				{#if temporary}
					<p class="mb-3 rounded bg-wash p-2">
						Temporary password, told once: <code class="block text-[17px] select-all">{temporary}</code> Good for nothing
						but choosing an own one.
					</p>
				{:else if data.username && staff.may('accounts.reset')}<div class="mb-3">
						<Ask
							label="Reset the password"
							question="They are signed out everywhere and get a temporary password."
							yes="Reset it"
							onyes={reset}
						/>
					</div>{/if}
			{/if}
			{#if data.person.student && staff.may('records.handle')}
				<div class="small mb-1">The whole record, on request</div>
				<div class="mb-3 flex flex-wrap gap-2">
					<a class="btn" href="/api/people/{id}/record.pdf" target="_blank" rel="noopener">As PDF</a><button
						class="btn"
						onclick={exportRecord}>As data</button
					>
					<Ask
						label="Erase"
						question="Name, ids, code, classes and families are lost for good; answers stay without a name, for item statistics."
						yes="Erase for good"
						reason="Why; it is kept in the log"
						onyes={erase}
					/>
				</div>
			{/if}
			{#if data.accounts.length}
				<div class="small">School {data.accounts.length === 1 ? 'account' : 'accounts'}</div>
				{#each data.accounts as a (a.id)}
					<div class="mb-2">
						{staff.veiled ? '·····' : a.name}
						{#if a.waits}<span class="small block"
								>Signed in with this user name on {dateTime(a.at, zone)}. Is it {data.person.student && staff.veiled
									? 'this person'
									: data.person.name}?</span
							>
							<div class="mt-1 flex gap-2">
								<button class="btn primary" onclick={() => account(a.id, true)}>Confirm</button><button
									class="btn"
									onclick={() => account(a.id, false)}>Refuse</button
								>
							</div>
						{:else}<Ask
								label="Unlink"
								question="This account no longer signs in here until somebody confirms it again."
								yes="Unlink"
								quiet
								onyes={async () => void (await account(a.id, null))}
							/>{/if}
					</div>
				{/each}
			{/if}
			<div class="small">Signed in last</div>
			<div class="mb-2">
				{data.last_sign_in_at ? dateTime(data.last_sign_in_at, zone) : 'never'}{data.last_place && !staff.veiled
					? `, from ${data.last_place}`
					: ''}
			</div>
			{#if data.person.student}
				<div class="small">Classes</div>
				{#each data.classes.filter((c) => c.active) as c (c.id)}<div class="leading-[26px]">
						<a class="word inline-block" href="/people/classes/{c.id}">{c.title}</a>{c.role === 'teacher'
							? ', teaches it'
							: ''}{c.begins ? `, since ${day(c.begins)}` : ''}
					</div>{:else}<div class="text-ink2">none</div>{/each}
				{#if data.classes.some((c) => !c.active)}<div class="small mt-1">
						Before: {data.classes
							.filter((c) => !c.active)
							.map((c) => c.title + (c.ends ? ` (to ${day(c.ends)})` : ''))
							.join(', ')}
					</div>{/if}
			{/if}
			{#if data.groups.length}<div class="small mt-2">Groups</div>
				{#each data.groups as g (g.id)}<div class="leading-[26px]">
						<a class="word inline-block" href="/people/groups/{g.id}">{g.name}</a>
					</div>{/each}{/if}
			{#if data.attributes.length && !staff.veiled}<dl class="mt-2">
					{#each data.attributes as a (a.name)}<dt class="small">{a.name}</dt>
						<dd>{a.value}</dd>{/each}
				</dl>{/if}
			{#if data.children.length}<div class="small mt-2">Children</div>
				{#each data.children as c, at (c.id)}<div>
						<a class="word" href="/people/{c.id}">{staff.name(c.name, at)}</a>
					</div>{/each}{/if}
		</section>
	</div>
{/if}
