<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Dialog from '$lib/design/Dialog.svelte';
	import { toasts } from '$lib/design/toasts.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { fieldsOf, time } from '$lib/words/show';

	/** A proctor is out: who takes over their sessions of the day. */
	let {
		open = $bindable(false),
		person,
		on,
		ondone
	}: {
		open?: boolean;
		person: string;
		/** A moment of the day. */
		on: string;
		ondone: () => void;
	} = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const day = $derived(on ? fieldsOf(on, zone).day : '');
	let found = $state<Schemas['Covers'] | null>(null);
	let problem = $state('');

	$effect(() => {
		if (!open || !person) return;
		[found, problem] = [null, ''];
		body(api.GET('/api/sessions/covers', { params: { query: { person, day } } }))
			.then((answer) => (found = answer))
			.catch((error) => (problem = said(error)));
	});

	async function reassign() {
		if (!found) return;
		const to = Object.fromEntries(found.covers.map((c) => [c.session, c.proctor ?? '']));
		try {
			await api.POST('/api/sessions/covers', { body: { person, day, to } });
			toasts.say(`${found.covers.length} ${found.covers.length === 1 ? 'session' : 'sessions'} reassigned.`);
			open = false;
			ondone();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Dialog bind:open title={found?.finding ?? 'Reassign sessions'} wide>
	{#if problem}<p class="mb-2 border-l-4 border-vermilion pl-2 text-[14px]">{problem}</p>{/if}
	{#if found}
		<Table>
			<thead><tr><th>Time</th><th>Class</th><th>Form</th><th>Room</th><th>New proctor</th></tr></thead>
			<tbody>
				{#each found.covers as c (c.session)}
					<tr>
						<td class="whitespace-nowrap">{time(c.start, zone)}</td><td>{c.klass}</td><td>{c.form}</td><td>{c.room}</td>
						<td
							>{#if c.proctor_name}{c.proctor_name}{:else}<span class="notch">no one is free</span>{/if}</td
						>
					</tr>
				{/each}
			</tbody>
		</Table>
	{:else if !problem}<p class="small" role="status">Loading …</p>{/if}
	<div class="mt-3 flex justify-end gap-2">
		<Button onclick={() => (open = false)}>Cancel</Button>
		<Button kind="primary" disabled={!found} onclick={reassign}
			>Reassign {found?.covers.length ?? ''} {found?.covers.length === 1 ? 'session' : 'sessions'}</Button
		>
	</div>
</Dialog>
