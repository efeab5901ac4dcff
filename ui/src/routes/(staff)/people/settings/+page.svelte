<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { choices } from '$lib/design/choices';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import { whole } from '$lib/words/show';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Finding of="Settings" class="mb-3">{shown.finding}</Finding>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.done}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{shown.done}</p>{/if}
{#if shown.data}
	<div class="columns-2 gap-3 text-[14px] *:mb-3 *:break-inside-avoid">
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (e.preventDefault(), void shown.keep(['formats']).then(shown.write))}
		>
			<h2>Dates and times</h2>
			<RadioGroup
				label="Dates and times"
				bind:value={shown.formats}
				choices={choices(
					['en-US', '11/27/2026, 1:20 PM; weeks from Sunday'],
					['en-GB', '27/11/2026, 13:20; weeks from Monday']
				)}
			/>
			<Button type="submit" kind="primary" class="self-start">Save</Button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (
				e.preventDefault(),
				void shown.keep(['keep_sign_ins_days', 'keep_log_years', 'erase_departed_years', 'keep_places'])
			)}
		>
			<h2>Data retention</h2>
			<label class="field"
				>Ended sign-ins, in days<input
					class="input w-28"
					type="number"
					min="30"
					max="3650"
					bind:value={shown.v.keep_sign_ins_days}
				/></label
			>
			<label class="field"
				>The log, in years<input
					class="input w-28"
					type="number"
					min="1"
					max="50"
					bind:value={shown.v.keep_log_years}
				/></label
			>
			<label class="field"
				>Years until students who left are erased (answers stay without a name; 0 = never)<input
					class="input w-28"
					type="number"
					min="0"
					max="50"
					bind:value={shown.v.erase_departed_years}
				/></label
			>
			<Checkbox bind:checked={shown.v.keep_places}><span>Keep the network address of sign-ins</span></Checkbox>
			<Button type="submit" kind="primary" class="self-start">Save</Button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (
				e.preventDefault(),
				void shown.keep(['records_on', 'records_address', 'records_client', 'records_secret', 'records_hour'])
			)}
		>
			<h2>Records system</h2>
			<label class="field"
				>Address of its OneRoster 1.2 service<input
					class="input"
					bind:value={shown.v.records_address}
					placeholder={shown.data.standins.records
						? `empty: the simulated system at ${shown.data.standins.records}`
						: 'https://'}
				/></label
			>
			<div class="flex gap-3">
				<label class="field flex-1"
					>Client<input class="input" bind:value={shown.v.records_client} autocomplete="off" /></label
				>
				<label class="field flex-1"
					>Secret<input class="input" type="password" bind:value={shown.v.records_secret} autocomplete="off" /></label
				>
				<label class="field w-24"
					>Hour<input class="input" type="number" min="0" max="23" bind:value={shown.v.records_hour} /></label
				>
			</div>
			<Checkbox bind:checked={shown.v.records_on}>Sync every night</Checkbox>
			<Button type="submit" kind="primary" class="self-start">Save</Button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (e.preventDefault(), void shown.keep(['exemption_reasons']))}
		>
			<h2>Exemptions</h2>
			<label class="field"
				>Reasons, one per line<textarea
					class="input"
					rows="7"
					bind:value={() => shown.reasons.join('\n'), (text) => (shown.reasons = text.split('\n'))}></textarea></label
			>
			<Button type="submit" kind="primary" class="self-start">Save</Button>
		</form>
		<Panel label="Student attributes">
			<h2 class="border-b border-hair px-4 py-2.5">Student attributes for comparing groups</h2>
			<Table>
				<thead><tr><th>Attribute</th><th class="n">Students</th><th>Visible to</th><th></th></tr></thead>
				<tbody>
					{#each shown.data.attributes as a (a.id)}
						<tr>
							<td>{a.name}</td><td class="n">{a.students}</td>
							<td
								><Select
									label="Who sees {a.name}"
									choices={[
										{ value: 'coordinator', label: 'coordinators' },
										{ value: 'teacher', label: 'coordinators and their teachers' }
									]}
									value={a.seen_by}
									onchange={(to) =>
										shown.go(api.POST('/api/settings/attributes', { body: { name: a.name, seen_by: to } }))}
									class="mt-0 w-full max-w-[200px]"
								/></td
							>
							<td class="n"
								><Ask
									quiet
									label="Delete"
									question="{a.name} and the values of {a.students} students are deleted."
									yes="Delete"
									onyes={() =>
										shown.go(
											api.DELETE('/api/settings/attributes/{attribute_id}', {
												params: { path: { attribute_id: a.id }, query: { students: a.students } }
											})
										)}
								/></td
							>
						</tr>
					{:else}<tr
							><td colspan="4" class="text-ink2"
								>None yet. Import values, or use Set in bulk under Groups and accommodations.</td
							></tr
						>{/each}
				</tbody>
			</Table>
			<form
				class="flex items-end gap-2 border-t border-hair p-3"
				onsubmit={(e) => (
					e.preventDefault(),
					void shown.go(api.POST('/api/settings/attributes', { body: shown.fresh })).then(() => (shown.fresh.name = ''))
				)}
			>
				<label class="field flex-1"
					>New attribute<input class="input" bind:value={shown.fresh.name} maxlength="40" required /></label
				>
				<Button type="submit">Add</Button>
			</form>
		</Panel>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (
				e.preventDefault(),
				void shown.keep(['provider_on', 'provider_name', 'provider_address', 'provider_client', 'provider_secret'])
			)}
		>
			<h2>Sign-in provider (OpenID Connect)</h2>
			<label class="field"
				>Issuer URL<input
					class="input"
					bind:value={shown.v.provider_address}
					placeholder={shown.data.standins.provider
						? `empty: the simulated system at ${shown.data.standins.provider}`
						: 'https://'}
				/></label
			>
			<div class="flex gap-3">
				<label class="field flex-1"
					>Client<input class="input" bind:value={shown.v.provider_client} autocomplete="off" /></label
				>
				<label class="field flex-1"
					>Secret<input class="input" type="password" bind:value={shown.v.provider_secret} autocomplete="off" /></label
				>
				<label class="field flex-1"
					>Name on the sign-in page<input class="input" bind:value={shown.v.provider_name} /></label
				>
			</div>
			<Checkbox bind:checked={shown.v.provider_on}>Show on the sign-in page</Checkbox>
			<p class="small">
				A school account is linked at its first sign-in: automatically if its subject is the number in the records,
				otherwise when you confirm it on the person's page. Signing in never creates a person.
			</p>
			<Button type="submit" kind="primary" class="self-start">Save</Button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (e.preventDefault(), void shown.keep(['backup_hour', 'backups_kept']))}
		>
			<h2>Backups</h2>
			<p class={shown.data.backups.failure ? 'border-l-4 border-vermilion pl-3' : ''}>
				{shown.data.backups.finding}{#if shown.data.backups.failure}<span class="small block"
						>{shown.data.backups.failure}</span
					>{/if}
			</p>
			<div class="flex gap-3">
				<label class="field"
					>Hour of the nightly backup<input
						class="input w-20"
						type="number"
						min="0"
						max="23"
						bind:value={shown.v.backup_hour}
					/></label
				>
				<label class="field"
					>Backups kept (0 = none)<input
						class="input w-24"
						type="number"
						min="0"
						max="400"
						bind:value={shown.v.backups_kept}
					/></label
				>
			</div>
			{#if shown.data.backups.backups.length}
				<Table>
					<thead><tr><th>Backup</th><th class="n">Answers</th><th class="n">Size</th><th></th></tr></thead><tbody>
						{#each shown.data.backups.backups.slice(0, 7) as b (b.name)}<tr
								><td>{b.name}</td><td class="n">{whole(b.answers)}</td><td class="n"
									>{Math.max(1, Math.round(b.bytes / 2 ** 20))} MB</td
								><td class="small">{b.problem || 'verified'}</td></tr
							>{/each}
					</tbody>
				</Table>
			{/if}
			<p class="small">
				Backups are in <code class="select-all">{shown.data.backups.folder}</code> on this server. Copy them to another machine;
				docs/running-a-server.md says how, and how to restore one.
			</p>
			<Button type="submit" kind="primary" class="self-start">Save</Button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (e.preventDefault(), void shown.keep(['site_address']))}
		>
			<h2>Address of this site</h2>
			<label class="field"
				>What students type or point a camera at; test tickets and code lists carry it<input
					class="input"
					bind:value={shown.v.site_address}
					placeholder="https://bildung.example.org"
				/></label
			>
			<Button type="submit" kind="primary" class="self-start">Save</Button>
		</form>
	</div>
{/if}
