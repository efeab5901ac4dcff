<script lang="ts">
	import { AlertDialog } from 'bits-ui';
	import type { Run } from './taking.svelte';

	/** A short message of whoever is in the room, or that five minutes are left; shown until it was read. */
	let { run }: { run: Run } = $props();
	const message = $derived(run.sitting.room?.message ?? null);
	const open = $derived(!run.trial && !run.ended && !run.covered && (message !== null || run.soon));

	function read() {
		if (message) void run.sign('read', message.id);
		else run.soon = false;
	}
</script>

<AlertDialog.Root bind:open={() => open, (is) => is || read()}>
	<AlertDialog.Portal>
		<AlertDialog.Overlay class="overlay" />
		<AlertDialog.Content class="dialog max-w-[440px] text-[18px]">
			<AlertDialog.Title class="text-[19px] font-semibold"
				>{message ? 'A message from your proctor' : `${run.minutes} minutes left`}</AlertDialog.Title
			>
			<AlertDialog.Description class="mt-2"
				>{message
					? message.text
					: 'When the time is over, your answers are submitted by themselves.'}</AlertDialog.Description
			>
			<div class="mt-4 flex justify-end">
				<AlertDialog.Action class="btn primary min-h-[46px] px-6 text-[17px]" onclick={read}>OK</AlertDialog.Action>
			</div>
		</AlertDialog.Content>
	</AlertDialog.Portal>
</AlertDialog.Root>
