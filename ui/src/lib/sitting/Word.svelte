<script lang="ts">
	import { AlertDialog } from 'bits-ui';
	import type { Run } from './taking.svelte';

	/** A short message of whoever is in the room, or that five minutes are left; shown until it was read. */
	let { run }: { run: Run } = $props();
	const message = $derived(run.sitting.room?.message ?? null);
	const more = $derived(run.sitting.goesOn);
	const open = $derived(!run.trial && !run.ended && !run.covered && (message !== null || more || run.soon));
	const left = $derived(`${run.minutes} ${run.minutes === 1 ? 'minute' : 'minutes'} left`);

	function read() {
		if (message) void run.sign('read', message.id);
		else if (more) run.sitting.goesOn = false;
		else run.soon = false;
	}
</script>

<AlertDialog.Root bind:open={() => open, (is) => is || read()}>
	<AlertDialog.Portal>
		<AlertDialog.Overlay class="overlay" />
		<AlertDialog.Content class="dialog max-w-[440px] text-[18px]">
			<AlertDialog.Title class="text-[19px] font-semibold"
				>{message ? 'A message from your proctor' : more ? `You have more time: ${left}` : left}</AlertDialog.Title
			>
			<AlertDialog.Description class="mt-2"
				>{message
					? message.text
					: more
						? 'While the network was away, time was added to this test. Go on where you were.'
						: run.finishing
							? 'When the time is over, your answers are submitted by themselves.'
							: 'When the time is over, this section ends by itself and the next one begins.'}</AlertDialog.Description
			>
			<div class="mt-4 flex justify-end">
				<AlertDialog.Action class="btn primary min-h-[46px] px-6 text-[17px]" onclick={read}>OK</AlertDialog.Action>
			</div>
		</AlertDialog.Content>
	</AlertDialog.Portal>
</AlertDialog.Root>
