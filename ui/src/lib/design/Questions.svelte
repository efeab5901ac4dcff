<script lang="ts">
	import { AlertDialog } from 'bits-ui';
	import { questions } from './questions.svelte';

	/** The dialog that asks before something is lost; stands once in the frame of the pages. */
	let why = $state('');
	const asked = $derived(questions.asked);
	const ready = $derived(!asked?.reason || asked.optional || why.trim() !== '');

	$effect(() => {
		if (asked) why = '';
	});

	function answer(event: SubmitEvent) {
		event.preventDefault();
		if (ready) asked?.answer(why.trim());
	}
</script>

<AlertDialog.Root bind:open={() => asked !== null, (is) => is || asked?.answer(null)}>
	<AlertDialog.Portal>
		<AlertDialog.Overlay class="overlay" />
		<AlertDialog.Content class="dialog max-w-[440px]">
			{#if asked}
				<form onsubmit={answer}>
					<AlertDialog.Title class="text-[17px] font-semibold">{asked.title}</AlertDialog.Title>
					<AlertDialog.Description class="mt-1.5 text-[14px]">{asked.says ?? ''}</AlertDialog.Description>
					{#if asked.reason}<label class="field mt-3"
							>{asked.reason}<textarea class="input" rows="2" bind:value={why} maxlength="500"></textarea></label
						>{/if}
					<div class="mt-4 flex justify-end gap-2">
						<AlertDialog.Cancel class="btn" type="button">Cancel</AlertDialog.Cancel>
						<AlertDialog.Action class="btn {asked.safe ? 'primary' : 'grave'}" disabled={!ready}
							>{asked.yes}</AlertDialog.Action
						>
					</div>
				</form>
			{/if}
		</AlertDialog.Content>
	</AlertDialog.Portal>
</AlertDialog.Root>
