<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { Plan } from './plan.svelte';

	/** A room is lost for some days: its sessions are planned elsewhere, the others stay where they can. */
	let { plan, room = $bindable('') }: { plan: Plan; room: string } = $props();
	const board = $derived(plan.board);
	const mine = $derived(board.closed.filter((c) => c.room === room));
	const today = $derived(staff.calendar?.today ?? board.start);
	let first = $state('');
	let last = $state('');
	$effect(() => {
		if (!room) return;
		first = today > board.start ? today : board.start;
		last = board.end;
	});
	function close() {
		const lost = room;
		room = '';
		void plan.closeRoom(lost, first, last);
	}
</script>

<Dialog
	bind:open={() => room !== '', (open) => !open && (room = '')}
	title="Close {room}"
	says="Sessions in it are planned again elsewhere. Every other session stays where it can."
>
	{#each mine as one (one.id)}
		<p class="mb-2 flex items-center gap-3 text-[14px]">
			<span class="flex-1">Closed {one.says}</span>
			<Button onclick={() => plan.reopenRoom(one.id)}>Open again</Button>
		</p>
	{/each}
	<div class="mb-3 flex gap-3">
		<DateField label="First day" bind:value={first} min={board.start} max={board.end} required />
		<DateField label="Last day" bind:value={last} min={first || board.start} max={board.end} required />
	</div>
	<div class="flex items-center justify-end gap-2">
		<Button onclick={() => (room = '')}>Cancel</Button>
		<Button kind="primary" disabled={!first || !last} onclick={close}>Close and plan again</Button>
	</div>
</Dialog>
