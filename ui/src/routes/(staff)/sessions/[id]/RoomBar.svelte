<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import type { Room } from './room.svelte';

	/** What can be done for one, several or all students in the room. */
	let { room }: { room: Room } = $props();
	const data = $derived(room.page.data!);
	const paused = $derived(data.paused || (room.whom.length > 0 && room.whom.every((s) => s.room.paused)));
	const IRREGULAR = [
		'Technical problem',
		'Disruption in the room',
		'Used an unauthorized aid',
		'Talked to another student',
		'Became ill',
		'Took the wrong test'
	];
</script>

<div class="mt-3 flex flex-wrap items-center gap-2" role="toolbar" aria-label="For the students in the room">
	<span class="mr-1 text-[14px]">{room.words}:</span>
	{#if paused}<Button kind="primary" disabled={room.busy} onclick={room.resume}>Resume</Button>
	{:else}<Button disabled={room.busy || !room.whom.length} onclick={room.pause}>Pause</Button>{/if}
	<Button disabled={!room.whom.length} onclick={() => (room.giving = true)}>Add minutes</Button>
	<Button disabled={!room.whom.length} onclick={() => (room.writing = true)}>Message</Button>
	<Button onclick={() => (room.noting = true)}>Irregularity</Button>
	<Menu
		label="More for students"
		entries={[
			{
				label: 'Let them go on on another device',
				disabled: !room.selected.length || !room.whom.length,
				does: () => void room.move()
			},
			{
				label: 'Continue on paper',
				disabled: !room.selected.length || !room.whom.length,
				does: () => void room.onPaper()
			},
			{ label: 'What finished students do', does: () => void room.afterward() }
		]}
	/>
	{#if room.selected.length}<Button kind="quiet" onclick={() => (room.chosen = {})}>Clear selection</Button>{/if}
	{#if data.may_stop_school}<span class="ml-auto"
			><Menu
				label="Whole school"
				entries={[
					{ label: 'Pause all open sessions', does: () => void room.stopSchool() },
					{ label: 'Resume all sessions', does: () => void room.school('', true) }
				]}
			/></span
		>{/if}
</div>

<Dialog bind:open={room.giving} title="Add minutes" says={room.words}>
	<form onsubmit={room.give}>
		<label class="field"
			>Minutes, 1 to 60<input
				class="input w-[120px]"
				type="text"
				inputmode="numeric"
				required
				bind:value={room.minutes}
			/></label
		>
		<div class="mt-4 flex justify-end gap-2">
			<Button onclick={() => (room.giving = false)}>Cancel</Button>
			<Button type="submit" kind="primary" disabled={room.busy}>Add</Button>
		</div>
	</form>
</Dialog>
<Dialog bind:open={room.writing} title="Message" says="{room.words}. It covers the test until it was read.">
	<form onsubmit={room.send}>
		<label class="field"
			>Text, up to 200 characters<textarea class="input" rows="3" maxlength="200" required bind:value={room.text}
			></textarea></label
		>
		<div class="mt-4 flex justify-end gap-2">
			<Button onclick={() => (room.writing = false)}>Cancel</Button>
			<Button type="submit" kind="primary" disabled={room.busy}>Send</Button>
		</div>
	</form>
</Dialog>
<Dialog
	bind:open={room.noting}
	title="Note an irregularity"
	says={room.selected.length ? room.words : 'About the whole session. To name students, select them in the list first.'}
>
	<form onsubmit={room.note}>
		<div class="mb-2 flex flex-wrap gap-1.5">
			{#each IRREGULAR as words (words)}<Button
					class="min-h-[28px]"
					aria-pressed={room.text.startsWith(words)}
					onclick={() => (room.text = words)}>{words}</Button
				>{/each}
		</div>
		<label class="field"
			>What happened<textarea class="input" rows="3" maxlength="500" required bind:value={room.text}></textarea></label
		>
		<div class="mt-4 flex justify-end gap-2">
			<Button onclick={() => (room.noting = false)}>Cancel</Button>
			<Button type="submit" kind="primary" disabled={room.busy}>Note it</Button>
		</div>
	</form>
</Dialog>
