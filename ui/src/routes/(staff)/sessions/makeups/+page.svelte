<script lang="ts">
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
	type Slot = {
		key: string;
		start: string;
		school: string;
		room: string;
		proctor: string;
		students: number;
		makeups: Schemas['Makeup'][];
	};
	const keyOf = (m: Schemas['Makeup']) => `${m.school} ${m.start} ${m.room}`;
	/** Makeups in one room at one time; several tests are taken beside each other. */
	const slots = $derived.by(() => {
		const by = new Map<string, Slot>();
		for (const m of found) {
			const { school, start, room, proctor_name: proctor } = m;
			const key = keyOf(m);
			const slot = by.get(key) ?? { key, school, start, room, proctor, students: 0, makeups: [] };
			by.set(key, slot);
			slot.makeups.push(m);
			slot.students += m.students.length;
		}
		return [...by.values()];
	});
	const chosen = $derived(found.filter((m) => !without.includes(keyOf(m))));
	const times = $derived(slots.filter((slot) => !without.includes(slot.key)).length);
	const REASONS: Record<string, string> = {
		absent: 'absent',
		void: 'invalidated',
		invalidated: 'attempt invalidated',
		interrupted: 'attempt interrupted',
		canceled: 'session canceled',
		none: 'no session yet'
	};

	async function schedule() {
		busy = true;
		problem = '';
		try {
			await api.POST('/api/sessions/makeups', {
				body: {
					makeups: chosen.map((m) => ({
						session: m.session,
						people: m.students.map((s) => s.person),
						start: m.start,
						end: m.end,
						room: m.room,
						proctor: m.proctor
					}))
				}
			});
			toasts.say(`${times} ${times === 1 ? 'makeup' : 'makeups'} scheduled.`);
			await goto(`/sessions?window=${data.window?.id ?? ''}`);
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<svelte:head><title>Makeups · Bildung</title></svelte:head>

<div class="small mb-1">
	<a class="word" href="/sessions?window={data.window?.id ?? ''}">Sessions</a>{data.window
		? ` · ${data.window.name}, ${day(data.window.start)} to ${day(data.window.end)}`
		: ''}
</div>
<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">{data.found?.finding ?? 'Makeups'}</h1>
	{#if found.length}<button class="btn primary" disabled={busy || !chosen.length} onclick={schedule}
			>Schedule {times} {times === 1 ? 'makeup' : 'makeups'}</button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if found.length}
	<p class="small mb-2">
		Each uses a room and a proctor of the school that are free then, at a time when the school tests. A student takes at
		most one makeup a day while days are left.
	</p>
	<div class="flex flex-col gap-2">
		{#each slots as slot (slot.key)}
			<section class="sheet flex gap-4 px-4 py-3" aria-label="{slot.school}, {dateTime(slot.start, zone)}">
				<Checkbox
					label="Schedule the makeup of {slot.school}, {dateTime(slot.start, zone)}"
					bind:checked={
						() => !without.includes(slot.key),
						(on) => (without = on ? without.filter((k) => k !== slot.key) : [...without, slot.key])
					}
				/>
				<div class="w-[250px]">
					<b class="block text-[15px]">{dateTime(slot.start, zone)}</b>
					<span class="small block">{slot.school}</span>
					<span class="small block"
						>{#if slot.room}Room {slot.room}{:else}<span class="notch">no room is free</span>{/if} · {#if slot.proctor}{slot.proctor}{:else}<span
								class="notch">no proctor is free</span
							>{/if}</span
					>
				</div>
				<table class="flex-1">
					<tbody>
						{#each slot.makeups as m (m.test)}
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
				</table>
				<span class="w-[90px] text-right text-[14px]"
					>{slot.students} {slot.students === 1 ? 'student' : 'students'}</span
				>
			</section>
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
				<span class="small">({REASONS[s.reason]})</span>{/each}
		</p>
	</section>
{/if}
