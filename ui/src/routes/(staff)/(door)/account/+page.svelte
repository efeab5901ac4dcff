<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Feed from './Feed.svelte';
	import Switch from '$lib/design/Switch.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Finding of="Your account" class="mb-3">
	{#if staff.me?.must_change}You signed in with a temporary password. Choose your own to continue.
	{:else}{staff.me?.name}: signed in here{shown.others
			? ` and on ${shown.others} other ${shown.others === 1 ? 'device' : 'devices'}`
			: ' only'}.{/if}
</Finding>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.done}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{shown.done}</p>{/if}
<div class="grid grid-cols-[340px_minmax(0,1fr)] items-start gap-3">
	<div class="flex flex-col gap-3">
		<form class="sheet flex flex-col gap-3 p-4" onsubmit={shown.change}>
			<h2>Change your password</h2>
			<label class="field"
				>Current password<input
					class="input"
					type="password"
					bind:value={shown.old}
					autocomplete="current-password"
					required
				/></label
			>
			<label class="field"
				>New password (at least 10 characters)<input
					class="input"
					type="password"
					bind:value={shown.fresh}
					autocomplete="new-password"
					minlength="10"
					required
				/></label
			>
			<label class="field"
				>Repeat the new password<input
					class="input"
					type="password"
					bind:value={shown.again}
					autocomplete="new-password"
					required
				/></label
			>
			<Button type="submit" kind="primary" class="self-start">Change password</Button>
		</form>
		<section class="sheet p-4" aria-labelledby="keyboard">
			<h2 id="keyboard" class="mb-2">Keyboard</h2>
			<Switch bind:checked={() => staff.letterKeys, (on) => void staff.setLetterKeys(on)}
				>One-letter shortcuts, such as <kbd>g</kbd> <kbd>s</kbd> for Sessions
				<span class="small block">Turn them off if you dictate or press keys by accident.</span></Switch
			>
		</section>
		{#if !staff.me?.must_change}<Feed zone={shown.zone} />{/if}
	</div>
	{#if !staff.me?.must_change}
		<Panel label="Where you are signed in">
			<Table>
				<thead><tr><th>Signed in with</th><th>Since</th><th>Last used</th><th></th></tr></thead>
				<tbody>
					{#each shown.list as s (s.id)}
						<tr>
							<td title={s.device}>{shown.device(s.device)}</td>
							<td>{dateTime(s.created_at, shown.zone)}</td>
							<td>{s.here ? 'now, here' : s.seen_at ? dateTime(s.seen_at, shown.zone) : ''}</td>
							<td class="n"
								>{#if !s.here}<Button kind="quiet" onclick={() => shown.end(s.id)}>Sign out there</Button>{/if}</td
							>
						</tr>
					{/each}
				</tbody>
			</Table>
			{#if shown.colleagues && staff.may('classes.run') && staff.me?.roles.includes('teacher')}
				<div class="border-t border-hair px-3 py-3 text-[14px]">
					<h2>Colleagues</h2>
					<p class="small mb-1">
						Colleagues you share with can see your classes' students, sessions, and answers by name. They cannot change
						anything.
					</p>
					{#each shown.colleagues.colleagues as c (c.id)}
						<div class="flex items-center gap-2">
							<span class="flex-1">{c.mine ? `${c.name} sees your classes` : `${c.name} shares ${c.classes}`}</span
							>{#if c.mine}<Button
									kind="quiet"
									onclick={() =>
										shown.show(
											api.DELETE('/api/me/colleagues/{consent_id}', { params: { path: { consent_id: c.id } } })
										)}>Withdraw</Button
								>{/if}
						</div>
					{:else}<div class="text-ink2">
							You share your classes with no one, and no one shares theirs with you.
						</div>{/each}
					<div class="mt-2 flex gap-2">
						<Select
							label="Colleague"
							choices={[
								{ value: '', label: 'choose a colleague' },
								...shown.colleagues.could_ask.map((c) => ({ value: c.id, label: c.name }))
							]}
							bind:value={shown.asked}
							class="mt-0 w-auto"
						/>
						<Button
							disabled={!shown.asked}
							onclick={() => shown.show(api.POST('/api/me/colleagues', { body: { person_id: shown.asked } }))}
							>Share my classes</Button
						>
					</div>
				</div>
			{/if}
			<p class="small border-t border-hair p-2">You are signed out after an hour without activity.</p>
		</Panel>
	{/if}
</div>
