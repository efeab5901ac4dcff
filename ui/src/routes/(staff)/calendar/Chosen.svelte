<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { shortDay, time } from '$lib/words/show';
	import type { Plan } from './plan.svelte';

	/** The session chosen on the board: what speaks against it, its room, proctor and students, and what can be done. */
	let { plan, session }: { plan: Plan; session: Schemas['BoardSession'] } = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const board = $derived(plan.board);
	const may = $derived(board.may && board.mine && !plan.working);
	const block = $derived(board.blocks[session.slot]);
	const dayOf = (slot: number) => board.days.find((d) => d.first <= slot && slot < d.first + d.count)?.day ?? '';
	let listed = $state(false);
	let picked = $state<string[]>([]);
	const others = $derived(
		board.sessions
			.filter((s) => s.number !== session.number)
			.map((s) => ({
				value: s.number,
				label: `${s.label}, ${shortDay(dayOf(s.slot))} block ${board.blocks[s.slot]?.name ?? ''}, ${s.room || 'no room'}`
			}))
	);
	let other = $state<number | null>(null);
	$effect(() => {
		void session.number;
		picked = [];
		other = null;
		listed = false;
	});
	const here = $derived({ session: session.number });
</script>

<section class="sheet mt-2 px-4 py-3 text-[14px]" aria-label="Chosen session">
	<div class="flex flex-wrap items-start gap-x-5 gap-y-2">
		<div class="min-w-[230px] flex-1">
			<h2>{session.label}</h2>
			<p class="small">
				{shortDay(dayOf(session.slot))}, {block ? `${time(block.start, zone)}, block ${block.name}` : ''} · {session.minutes}
				minutes · students see “{session.title}”{session.held ? ' · placed by hand' : ''}
			</p>
			{#each session.against as line (line)}<p class="notch">{line}</p>{/each}
		</div>
		<label class="field w-[150px]"
			>Room
			<Select
				value={session.room}
				choices={[
					{ value: '', label: 'none' },
					...board.rooms.map((r) => ({ value: r.name, label: r.name, more: r.seats ? `${r.seats} seats` : '' }))
				]}
				disabled={!may}
				onchange={(room) => plan.move({ kind: 'move', ...here, room })}
			/></label
		>
		<label class="field w-[180px]"
			>Proctor
			<Select
				value={session.proctor}
				choices={[{ value: '0', label: 'none' }, ...board.people.map((p) => ({ value: p.id, label: p.name }))]}
				disabled={!may}
				onchange={(proctor) => plan.move({ kind: 'proctor', ...here, proctor })}
			/></label
		>
		<div class="w-[110px]">
			<span class="small block">Devices</span><span class="block py-2"
				>{session.cart || (session.against.length ? '–' : 'in the room')}</span
			>
		</div>
	</div>
	<div class="mt-2 flex flex-wrap items-center gap-2">
		<Button aria-expanded={listed} onclick={() => (listed = !listed)}
			>{session.size} {session.size === 1 ? 'student' : 'students'}</Button
		>
		{#if may}
			<Button onclick={() => plan.move({ kind: session.held ? 'release' : 'hold', ...here })}
				>{session.held ? 'Let it move' : 'Keep it here'}</Button
			>
			<Button onclick={() => plan.move({ kind: 'remove', ...here })}>Remove</Button>
			<span class="ml-3 flex items-center gap-2"
				><Select
					class="w-[270px]"
					label="Another session"
					placeholder="another session"
					bind:value={other}
					choices={others}
				/>
				<Button disabled={other === null} onclick={() => plan.move({ kind: 'swap', ...here, other })}>Swap</Button>
				<Button disabled={other === null} onclick={() => plan.move({ kind: 'merge', ...here, other })}>Merge</Button>
			</span>
		{/if}
	</div>
	{#if listed}
		<div class="mt-2 border-t border-hair2 pt-2">
			{#each session.lists as list, n (n)}
				<p class="small mb-1">{list.test}, {list.klass}{list.whole ? '' : ', by name'}</p>
				<div class="mb-2 grid grid-cols-4 gap-x-4">
					{#each list.students as student, place (student.person)}
						<Checkbox
							disabled={!may}
							bind:checked={
								() => picked.includes(student.person),
								(on) => (picked = on ? [...picked, student.person] : picked.filter((p) => p !== student.person))
							}>{staff.name(student.name, place)}</Checkbox
						>
					{/each}
				</div>
			{/each}
			{#if may}
				<div class="flex flex-wrap items-center gap-2">
					<Button disabled={!picked.length} onclick={() => plan.move({ kind: 'split', ...here, students: picked })}
						>Split off {picked.length || ''}</Button
					>
					<Button
						disabled={!picked.length || other === null}
						onclick={() => plan.move({ kind: 'students', ...here, other, students: picked })}
						>Move to the session chosen above</Button
					>
				</div>
			{/if}
		</div>
	{/if}
</section>
