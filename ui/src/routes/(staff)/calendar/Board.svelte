<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';
	import { shortDay, time } from '$lib/words/show';
	import type { Plan } from './plan.svelte';

	/** One week: rooms, proctors or classes by blocks. Sessions are dragged, or carried by keys. */
	let { plan, onroom }: { plan: Plan; onroom: (room: string) => void } = $props();
	type Session = Schemas['BoardSession'];
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const board = $derived(plan.board);
	const days = $derived(plan.weeks[plan.week] ?? []);
	const first = $derived(days[0]?.first ?? 0);
	const count = $derived(days.reduce((n, d) => n + d.count, 0));
	const types = $derived([...new Set(board.days.map((d) => d.type))]);
	const here = $derived(board.sessions.filter((s) => s.slot >= first && s.slot < first + count));
	const rooms = $derived(new Map(board.rooms.map((r) => [r.name, r])));
	const shut = $derived(new Set(board.rooms.flatMap((r) => r.shut.map((slot) => `${r.name}|${slot}`))));
	const rows = $derived.by(() => {
		const found = new Set<string>();
		// rooms of classes are listed in the weeks in which they are used
		if (plan.rows === 'rooms') for (const room of board.rooms) if (!room.own || plan.every) found.add(room.name);
		for (const session of here) found.add(plan.rowOf(session));
		const shared = (row: string) => plan.rows === 'rooms' && rooms.get(row)?.own === false;
		const by = (a: string, b: string) => a.localeCompare(b, undefined, { numeric: true });
		return [...found].sort((a, b) => Number(shared(b)) - Number(shared(a)) || by(a, b));
	});
	const at = $derived.by(() => {
		const found = new Map<string, Session[]>();
		for (const session of here) {
			const key = `${plan.rowOf(session)}|${session.slot}`;
			found.set(key, [...(found.get(key) ?? []), session]);
		}
		return found;
	});
	/** Cells under the later blocks of a long session. */
	const under = $derived(
		new Set(here.flatMap((s) => Array.from({ length: s.length - 1 }, (_, n) => `${plan.rowOf(s)}|${s.slot + n + 1}`)))
	);
	let dragged = $state<number | null>(null);
	let over = $state('');

	function sub(row: string): string {
		if (plan.rows === 'rooms') {
			const room = rooms.get(row);
			if (!room || !room.seats) return row ? '' : 'no room';
			return `${room.seats} seats${room.devices ? `, ${room.devices} dev.` : ''}`;
		}
		const n = here.filter((s) => plan.rowOf(s) === row).length;
		return `${n} ${n === 1 ? 'session' : 'sessions'}`;
	}

	function tells(session: Session): string {
		const block = board.blocks[session.slot];
		const when = block ? `${shortDay(dayOf(session.slot))}, block ${block.name}` : '';
		const against = session.against.length ? ` ${session.against.join(' ')}` : '';
		return `${session.label}, ${session.room || 'no room'}, ${when}, ${session.size} students, ${session.proctor_name || 'no proctor'}.${against}`;
	}

	const dayOf = (slot: number) =>
		board.days.find((d) => d.first <= slot && slot < d.first + d.count)?.day ?? board.start;

	function keys(e: KeyboardEvent, session: Session) {
		if (!board.may || !board.mine) return;
		if (plan.carried?.id === session.number) {
			if (e.key.startsWith('Arrow')) plan.step(e.key, rows);
			else if (e.key === 'Enter' || e.key === ' ') void plan.drop(session.number, plan.carried.slot, plan.carried.row);
			else if (e.key === 'Escape') plan.carried = null;
			else return;
			e.preventDefault();
			e.stopPropagation();
		} else if (e.key === 'Enter') {
			e.preventDefault();
			plan.chosen = session.number;
			plan.carry(session.number, rows);
		}
	}

	function target(row: string, slot: number): boolean {
		return over === `${row}|${slot}` || (plan.carried?.row === row && plan.carried.slot === slot);
	}
</script>

<div class="sheet overflow-x-auto">
	<div
		class="board"
		style:grid-template-columns="128px repeat({count}, minmax(36px, 1fr))"
		role="grid"
		aria-label="Sessions by {plan.rows === 'people' ? 'proctor' : plan.rows === 'rooms' ? 'room' : 'class'} and block"
	>
		<div role="row" class="contents">
			<span role="columnheader" class="head"></span>
			{#each days as day (day.day)}
				<span
					role="columnheader"
					class="head day {types.indexOf(day.type) % 2 ? 'low' : ''}"
					style:grid-column="span {day.count}"
					><b class="font-semibold {day.day === staff.calendar?.today ? 'underline' : ''}">{shortDay(day.day)}</b>
					{#if day.type}<span class="small">{day.type.length > 2 ? day.type : `${day.type} day`}</span>{/if}</span
				>
			{/each}
		</div>
		<div role="row" class="contents">
			<span role="columnheader" class="head blocks small"
				>{plan.rows === 'people' ? 'Proctor' : plan.rows === 'rooms' ? 'Room' : 'Class'}</span
			>
			{#each { length: count } as _, n (n)}
				{@const block = board.blocks[first + n]}
				<span
					role="columnheader"
					class="head blocks small text-center"
					class:edge={days.some((d) => d.first === first + n)}
					class:blocked={block?.blocked}
					title={block ? `${time(block.start, zone)} to ${time(block.end, zone)}` : ''}
					>{#if block && board.may && board.mine && !block.past}<button
							class="w-full cursor-pointer"
							aria-pressed={block.blocked}
							aria-label="{shortDay(dayOf(first + n))}, block {block.name}: {block.blocked
								? 'open for testing again'
								: 'no testing'}"
							onclick={() => plan.block(first + n, !block.blocked)}>{block.name}</button
						>{:else}{block?.name}{/if}</span
				>
			{/each}
		</div>
		{#each rows as row (row)}
			<div role="row" class="contents">
				<span role="rowheader" class="name"
					>{#if plan.rows === 'rooms' && row && board.may && board.mine}<button
							class="block w-full cursor-pointer truncate text-left font-semibold hover:underline"
							aria-label="{row}: close it for some days"
							title="Close it for some days"
							onclick={() => onroom(row)}>{row}</button
						>{:else}<b class="block truncate font-semibold">{row || '(none)'}</b>{/if}<span
						class="small block leading-tight">{sub(row)}</span
					></span
				>
				{#each { length: count } as _, n (n)}
					{@const slot = first + n}
					{@const key = `${row}|${slot}`}
					{#if !under.has(key)}
						{@const mine = at.get(key) ?? []}
						{@const span = Math.max(1, ...mine.map((s) => s.length))}
						<!-- svelte-ignore a11y_interactive_supports_focus -->
						<div
							role="gridcell"
							class="cell"
							class:edge={days.some((d) => d.first === slot)}
							class:past={board.blocks[slot]?.past || board.blocks[slot]?.blocked}
							class:shut={plan.rows === 'rooms' && shut.has(key)}
							class:target={target(row, slot)}
							style:grid-column="span {span}"
							ondragover={(e) => {
								if (dragged === null) return;
								e.preventDefault();
								over = key;
							}}
							ondragleave={() => (over = over === key ? '' : over)}
							ondrop={(e) => {
								e.preventDefault();
								if (dragged !== null) void plan.drop(dragged, slot, row);
								dragged = null;
								over = '';
							}}
						>
							{#each mine as session (session.number)}
								<button
									class="tile {session.state}"
									class:wrong={session.against.length > 0}
									class:on={plan.chosen === session.number}
									class:carried={plan.carried?.id === session.number}
									draggable={board.may && board.mine}
									aria-label={tells(session)}
									title={tells(session)}
									onclick={() => (plan.chosen = plan.chosen === session.number ? null : session.number)}
									onkeydown={(e) => keys(e, session)}
									ondragstart={(e) => {
										dragged = session.number;
										e.dataTransfer?.setData('text/plain', String(session.number));
									}}
									ondragend={() => ((dragged = null), (over = ''))}
								>
									<span class="block">{session.short}</span><b class="block">{session.of}</b>
									<span
										class="full"
										style:width="{session.seats ? Math.min(100, (session.size / session.seats) * 100) : 100}%"
									></span>
								</button>
							{/each}
						</div>
					{/if}
				{/each}
			</div>
		{/each}
	</div>
</div>

<style>
	.board {
		display: grid;
		font-size: 11.5px;
		min-width: 760px;
	}
	.head {
		padding: 4px 6px 2px;
		font-size: 12.5px;
		background: var(--color-sheet);
	}
	.head.blocks {
		padding-top: 2px;
		border-bottom: 1px solid var(--color-hair);
	}
	.day {
		border-left: 1px solid var(--color-edge);
		border-bottom: 2px solid var(--color-petrol);
		white-space: nowrap;
		overflow: hidden;
		margin-bottom: 8px;
	}
	.day.low {
		margin-bottom: 0;
		padding-bottom: 10px;
	}
	.name {
		padding: 3px 8px;
		border-bottom: 1px solid var(--color-hair2);
		line-height: 1.15;
		font-size: 12.5px;
	}
	.cell {
		min-height: 36px;
		padding: 1px;
		border-left: 1px solid var(--color-hair2);
		border-bottom: 1px solid var(--color-hair2);
	}
	.edge {
		border-left: 1px solid var(--color-edge);
	}
	.cell.past {
		background: var(--color-paper);
	}
	.cell.shut {
		background: repeating-linear-gradient(-45deg, transparent 0 5px, var(--color-hair) 5px 6px);
	}
	.cell.target {
		outline: 2px dashed var(--color-petrol);
		outline-offset: -2px;
	}
	.tile {
		position: relative;
		width: 100%;
		height: 33px;
		overflow: hidden;
		border: 1px solid var(--color-edge-soft);
		border-radius: 3px;
		background: var(--color-sheet);
		line-height: 1.15;
		white-space: nowrap;
		cursor: grab;
	}
	.tile b {
		font-weight: 650;
	}
	.tile.new,
	.tile.moved {
		border-style: dashed;
		border-color: var(--color-petrol);
	}
	.tile.on {
		background: var(--color-wash);
		border: 2px solid var(--color-petrol);
	}
	.tile.carried {
		outline: 2px dashed var(--color-petrol);
	}
	.tile.wrong {
		border: 1px solid var(--color-vermilion);
	}
	.tile.wrong::before {
		content: '';
		position: absolute;
		left: 0;
		top: 0;
		border-top: 9px solid var(--color-vermilion);
		border-right: 9px solid transparent;
	}
	.full {
		position: absolute;
		left: 0;
		bottom: 0;
		height: 3px;
		background: var(--color-relief2);
	}
</style>
