<script lang="ts">
	import Switch from '$lib/design/Switch.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import { api } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, day, STATE_WORDS } from '$lib/words/show';
	import Accommodations from './Accommodations.svelte';
	import Exemptions from './Exemptions.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data}
	<Finding
		of={shown.data.person.kind === 'staff' ? 'Staff' : 'Student'}
		title={shown.hidden(shown.data?.person.name ?? 'Person')}
		beside={`${shown.data.person.school || 'the district'}, ${staff.veiled && shown.data.person.student ? '·····' : shown.data.source_id}`}
		class="mb-3">{shown.hidden(shown.data.finding)}</Finding
	>
	<div class="grid grid-cols-[minmax(0,1fr)_310px] items-start gap-3">
		<div class="flex flex-col gap-3">
			{#if shown.data.person.kind === 'staff'}
				<Panel label="Classes">
					<Table>
						<thead><tr><th>Class</th><th>As</th><th>From</th><th>To</th></tr></thead>
						<tbody>
							{#each shown.data.classes as c (c.id)}
								<tr tabindex="-1" data-row onclick={() => goto(`/people/classes/${c.id}`)}>
									<td><a class="word" href="/people/classes/{c.id}">{c.title}</a></td><td>{c.role}</td><td
										>{c.begins ? day(c.begins) : ''}</td
									><td>{c.active ? '' : c.ends ? day(c.ends) : 'no longer'}</td>
								</tr>
							{:else}<tr
									><td colspan="4" class="text-ink2">No classes. Classes come from the roster or the roster check.</td
									></tr
								>{/each}
						</tbody>
					</Table>
				</Panel>
			{:else}
				<Panel label="Attempts">
					{#if staff.may('people.settle') && shown.data.sittings.some((s) => ['absent', 'void'].includes(s.state))}<p
							class="border-b border-hair2 px-4 py-2 text-right"
						>
							<Button href="/sessions/makeups?person={shown.data.person.id}">Plan makeup</Button>
						</p>{/if}
					{#if shown.data.sittings.length}
						<Table>
							<thead><tr><th>Test</th><th>Window</th><th>Class</th><th>When</th><th>State</th></tr></thead>
							<tbody>
								{#each shown.data.sittings as s (s.session_id)}
									<tr tabindex="-1" data-row onclick={() => goto(`/sessions/${s.session_id}`)}>
										<td><a class="word" href="/sessions/{s.session_id}">{s.form}</a></td>
										<td>{s.window}</td>
										<td>{s.klass}</td>
										<td>{dateTime(s.at, shown.zone)}</td>
										<td
											><svg width="12" height="12" class="mr-1.5 inline" aria-hidden="true"
												><rect
													width="12"
													height="12"
													fill={shown.FILL[s.state] ?? 'var(--color-white)'}
													stroke="var(--color-ink2)"
													stroke-dasharray={shown.FILL[s.state] ? undefined : '2 2'}
												/></svg
											>{STATE_WORDS[s.state]}</td
										>
									</tr>
								{/each}
							</tbody>
						</Table>
					{:else}<p class="p-6 text-ink2">
							{shown.data.person.student
								? 'No tests yet. Attempts appear here once a session is scheduled.'
								: 'Families see the tests of their own children.'}
						</p>{/if}
				</Panel>
			{/if}
			{#if shown.data.person.student && (shown.data.choices || shown.data.accommodations.length)}
				<Accommodations {shown} data={shown.data} />
			{/if}
			<div class="grid grid-cols-2 items-start gap-3">
				{#if shown.data.may_support || shown.data.accommodations.length}
					<Exemptions person={shown.data.person.id} may={shown.data.may_support} />
				{/if}
				{#if shown.data.person.student}
					<Panel label="Family" class="p-4 text-[14px]">
						<div class="small">Family</div>
						{#each shown.data.families as f (f.id)}
							<div class="flex flex-wrap items-center gap-2">
								<span class="flex-1"
									>{staff.veiled ? 'a family' : f.name}{f.relation ? `, ${f.relation}` : ''}<span class="small block"
										>{f.last_sign_in_at
											? `signed in ${dateTime(f.last_sign_in_at, shown.zone)}`
											: 'never signed in'}</span
									></span
								>
								{#if staff.may('accounts.reset')}<Switch
										checked={f.results}
										onchange={(results) =>
											void shown.go(
												api.PUT('/api/people/{person_id}/families/{family_id}/results', {
													params: { path: { person_id: shown.id, family_id: f.id } },
													body: { results }
												})
											)}>sees results</Switch
									><Button kind="quiet" href="/people/{f.id}">Open</Button><Ask
										quiet
										label="Unlink"
										question="{f.name} will no longer see this child."
										yes="Unlink"
										onyes={async () =>
											void (await shown.go(
												api.DELETE('/api/people/{person_id}/families/{family_id}', {
													params: { path: { person_id: shown.id, family_id: f.id } }
												})
											))}
									/>{/if}
							</div>
						{:else}<div class="text-ink2">none is linked</div>{/each}
						{#if shown.told}<p class="mt-2 rounded bg-wash p-2">
								Temporary password, shown once: <code class="block text-[15px] select-all">{shown.told}</code>
							</p>{/if}
						{#if shown.family}
							<form class="mt-2 flex flex-col gap-2" onsubmit={shown.addFamily}>
								<label class="field">Given name<input class="input" bind:value={shown.family.given} required /></label>
								<label class="field">Family name<input class="input" bind:value={shown.family.family} required /></label
								>
								<label class="field"
									>Username (an existing one is linked)<input
										class="input"
										bind:value={shown.family.username}
										required
									/></label
								>
								<label class="field"
									>Relation<input
										class="input"
										bind:value={shown.family.relation}
										placeholder="parent, guardian"
									/></label
								>
								<div class="flex gap-2">
									<Button type="submit" kind="primary">Link</Button><Button onclick={() => (shown.family = null)}
										>Cancel</Button
									>
								</div>
							</form>
						{:else if staff.may('accounts.reset')}<Button
								class="mt-2"
								onclick={() => (shown.family = { given: '', family: '', username: '', relation: '' })}
								>Link a family</Button
							>{/if}
					</Panel>
				{/if}
				{#if shown.data.may_grant}
					<Panel label="Roles" class="p-4 text-[14px]">
						<div class="small">Roles and schools</div>
						{#each shown.data.roles as r (r.id)}<div class="flex flex-wrap items-center gap-2">
								<span class="flex-1">{r.role}, {r.school}</span><Ask
									quiet
									label="Remove"
									question="{shown.data.person.name} will no longer be {r.role} at {r.school}."
									yes="Remove"
									onyes={async () =>
										void (await shown.go(
											api.DELETE('/api/people/roles/{role_id}', { params: { path: { role_id: r.id } } })
										))}
								/>
							</div>{:else}<div class="text-ink2">nothing</div>{/each}
						<div class="mt-2 flex flex-wrap items-end gap-2">
							<Select label="Role" choices={shown.ROLES} bind:value={shown.role.role} class="mt-0 w-auto" />
							<Select
								label="Where"
								choices={[
									{ value: '', label: 'the district' },
									...shown.schools.map((s) => ({ value: s.id, label: s.name }))
								]}
								bind:value={shown.role.school_id}
								class="mt-0 w-auto max-w-[150px]"
							/>
							<Button onclick={shown.grant}>Assign role</Button>
						</div>
					</Panel>
				{/if}
			</div>
		</div>
		<Panel class="p-4 text-[14px]">
			{#if shown.data.person.student}
				<div class="small">Sign-in code</div>
				<div class="font-mono text-[24px] tracking-[0.14em]">{staff.veiled ? '·····' : shown.data.person.code}</div>
				{#if shown.data.may_settle}<div class="mt-1 mb-3">
						<Ask
							label="Replace sign-in code"
							question="The old code stops working."
							yes="Create code"
							onyes={shown.newCode}
						/>
					</div>{/if}
			{:else}
				<div class="small">Signs in as</div>
				<div class="mb-1">{shown.data.username ?? 'no user name in the records'}</div>
				{#if shown.temporary}
					<p class="mb-3 rounded bg-wash p-2">
						Temporary password, shown once: <code class="block text-[17px] select-all">{shown.temporary}</code> It only allows
						choosing a new password.
					</p>
				{:else if shown.data.username && staff.may('accounts.reset')}<div class="mb-3">
						<Ask
							label="Reset password"
							question="They are signed out everywhere and get a temporary password."
							yes="Reset"
							onyes={shown.reset}
						/>
					</div>{/if}
			{/if}
			{#if shown.data.person.student && staff.may('records.handle')}
				<div class="small mb-1">Full record</div>
				<div class="mb-3 flex flex-wrap gap-2">
					<Button href="/api/people/{shown.id}/record.pdf" target="_blank" rel="noopener">As PDF</Button><Button
						onclick={shown.exportRecord}>As data</Button
					>
					<Ask
						label="Erase"
						question="Name, IDs, code, classes, and family links are deleted permanently. Answers stay without a name for item statistics."
						yes="Erase permanently"
						reason="Reason (kept in the log)"
						onyes={shown.erase}
					/>
				</div>
			{/if}
			{#if shown.data.accounts.length}
				<div class="small">School {shown.data.accounts.length === 1 ? 'account' : 'accounts'}</div>
				{#each shown.data.accounts as a (a.id)}
					<div class="mb-2">
						{staff.veiled ? '·····' : a.name}
						{#if a.waits}<span class="small block"
								>Signed in with this user name on {dateTime(a.at, shown.zone)}. Is it {shown.data.person.student &&
								staff.veiled
									? 'this person'
									: shown.data.person.name}?</span
							>
							<div class="mt-1 flex gap-2">
								<Button kind="primary" onclick={() => shown.account(a.id, true)}>Confirm</Button><Button
									onclick={() => shown.account(a.id, false)}>Refuse</Button
								>
							</div>
						{:else}<Ask
								label="Unlink"
								question="This account can no longer sign in until someone confirms it again."
								yes="Unlink"
								quiet
								onyes={async () => void (await shown.account(a.id, null))}
							/>{/if}
					</div>
				{/each}
			{/if}
			<div class="small">Last sign-in</div>
			<div class="mb-2">
				{shown.data.last_sign_in_at ? dateTime(shown.data.last_sign_in_at, shown.zone) : 'never'}{shown.data
					.last_place && !staff.veiled
					? `, from ${shown.data.last_place}`
					: ''}
			</div>
			{#if shown.data.person.student}
				<div class="small">Classes</div>
				{#each shown.data.classes.filter((c) => c.active) as c (c.id)}<div class="leading-[26px]">
						<a class="word inline-block" href="/people/classes/{c.id}">{c.title}</a>{c.role === 'teacher'
							? ', teaches it'
							: ''}{c.begins ? `, since ${day(c.begins)}` : ''}
					</div>{:else}<div class="text-ink2">none</div>{/each}
				{#if shown.data.classes.some((c) => !c.active)}<div class="small mt-1">
						Before: {shown.data.classes
							.filter((c) => !c.active)
							.map((c) => c.title + (c.ends ? ` (to ${day(c.ends)})` : ''))
							.join(', ')}
					</div>{/if}
			{/if}
			{#if shown.data.groups.length}<div class="small mt-2">Groups</div>
				{#each shown.data.groups as g (g.id)}<div class="leading-[26px]">
						<a class="word inline-block" href="/people/groups/{g.id}">{g.name}</a>
					</div>{/each}{/if}
			{#if shown.data.attributes.length && !staff.veiled}<dl class="mt-2">
					{#each shown.data.attributes as a (a.name)}<dt class="small">{a.name}</dt>
						<dd>{a.value}</dd>{/each}
				</dl>{/if}
			{#if shown.data.children.length}<div class="small mt-2">Children</div>
				{#each shown.data.children as c, at (c.id)}<div>
						<a class="word" href="/people/{c.id}">{staff.name(c.name, at)}</a>
					</div>{/each}{/if}
		</Panel>
	</div>
{/if}
