<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import { api, said, type Schemas } from '$lib/api/client';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import { toasts } from '$lib/design/toasts.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, day, time } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** Makeup sessions for everybody who still owes a test: proposed, looked at, scheduled. */
	let { data }: PageProps = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const found = $derived(data.found?.makeups ?? []);
	let without = $state<string[]>([]);
	let problem = $derived(data.problem);
	let busy = $state(false);
	const keyOf = (m: Schemas['Makeup']) => `${m.school} ${m.start} ${m.room}`;
	const chosen = $derived(found.filter((m) => !without.includes(keyOf(m))));

	async function schedule() {
		busy = true;
		problem = '';
		try {
			await api.POST('/api/sessions/makeups', {
				body: {
					makeups: chosen.flatMap((m) =>
						m.tests.map((t) => ({
							session: t.session,
							people: t.students.map((s) => s.person),
							start: m.start,
							end: t.end,
							room: m.room,
							proctor: m.proctor
						}))
					)
				}
			});
			toasts.say(`${chosen.length} ${chosen.length === 1 ? 'makeup' : 'makeups'} scheduled.`);
			await goto(`/sessions?window=${data.window?.id ?? ''}`);
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<div class="small mb-1">
	<a class="word" href="/sessions?window={data.window?.id ?? ''}">Sessions</a>{data.window
		? ` · ${data.window.name}, ${day(data.window.start)} to ${day(data.window.end)}`
		: ''}
</div>
<div class="mb-3 flex items-start gap-3">
	<Finding of="Makeups" class="flex-1">{data.found?.finding ?? ''}</Finding>
	{#if found.length}<Button kind="primary" disabled={busy || !chosen.length} onclick={schedule}
			>Schedule {chosen.length} {chosen.length === 1 ? 'makeup' : 'makeups'}</Button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if found.length}
	<p class="small mb-2">
		Each uses a room and a proctor of the school that are free then, at a time when the school tests. A student takes at
		most one makeup a day while days are left.
	</p>
	<div class="flex flex-col gap-2">
		{#each found as slot (keyOf(slot))}
			<Panel label="{slot.school}, {dateTime(slot.start, zone)}" class="flex gap-4 px-4 py-3">
				<Checkbox
					label="Schedule the makeup of {slot.school}, {dateTime(slot.start, zone)}"
					bind:checked={
						() => !without.includes(keyOf(slot)),
						(on) => (without = on ? without.filter((k) => k !== keyOf(slot)) : [...without, keyOf(slot)])
					}
				/>
				<div class="w-[250px]">
					<b class="block text-[15px]">{dateTime(slot.start, zone)}</b>
					<span class="small block">{slot.school}</span>
					<span class="small block"
						>{#if slot.room}Room {slot.room}{:else}<span class="notch">no room is free</span>{/if} · {#if slot.proctor_name}{slot.proctor_name}{:else}<span
								class="notch">no proctor is free</span
							>{/if}</span
					>
				</div>
				<Table class="flex-1">
					<tbody>
						{#each slot.tests as m (m.test)}
							<tr class="align-top">
								<td class="w-[190px]">{m.test}</td>
								<td class="w-[120px] whitespace-nowrap">until {time(m.end, zone)}</td>
								<td
									>{#each m.students as s, place (s.person)}{place ? ', ' : ''}<a class="word" href="/people/{s.person}"
											>{staff.name(s.name, place)}</a
										>{#if s.apart}&nbsp;<span class="small">(separate room)</span>{/if}{/each}</td
								>
							</tr>
						{/each}
					</tbody>
				</Table>
				<span class="w-[90px] text-right text-[14px]"
					>{slot.students} {slot.students === 1 ? 'student' : 'students'}</span
				>
			</Panel>
		{/each}
	</div>
{/if}
{#if data.found?.left.length}
	<section class="sheet mt-3 px-4 py-3" aria-labelledby="left">
		<h2 id="left" class="mb-1">No place found</h2>
		<p class="text-[14px]">
			{#each data.found.left as s, at (at)}{at ? ', ' : ''}<a class="word" href="/people/{s.person}"
					>{staff.name(s.name, at)}</a
				>
				<span class="small">({s.why})</span>{/each}
		</p>
	</section>
{/if}
