<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';

	/** Which student has which response device: numbered as the class list is, or by hand. */
	let { klass, students }: { klass: string; students: Schemas['ClassPage']['students'] } = $props();
	let open = $state(false);
	let problem = $state('');
	let numbers = $state<Record<string, string>>({});

	async function look() {
		try {
			const found = await body(api.GET('/api/classes/{class_id}/devices', { params: { path: { class_id: klass } } }));
			numbers = Object.fromEntries(Object.entries(found.numbers).map(([person, n]) => [person, String(n)]));
			[open, problem] = [true, ''];
		} catch (error) {
			problem = said(error);
		}
	}

	const inOrder = () => (numbers = Object.fromEntries(students.map((s, at) => [s.id, String(at + 1)])));

	async function save(event: SubmitEvent) {
		event.preventDefault();
		const kept = Object.entries(numbers).filter(([, n]) => n.trim());
		try {
			await api.PUT('/api/classes/{class_id}/devices', {
				params: { path: { class_id: klass } },
				body: { numbers: Object.fromEntries(kept.map(([person, n]) => [person, Number(n)])) }
			});
			open = false;
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Button class="mb-4" onclick={look}>Response devices</Button>
<Dialog bind:open title="Response devices" says="The number on the device that each student holds in a live round.">
	<form onsubmit={save}>
		<Notice text={problem} />
		<Button class="mb-2" onclick={inOrder}>Number as listed</Button>
		<div {@attach scrollable} class="max-h-[50vh] overflow-auto">
			{#each students as s, at (s.id)}<label class="flex items-center gap-3 border-t border-hair2 py-1 text-[14px]"
					><span class="flex-1">{staff.name(s.name, at)}</span><input
						class="input mt-0 w-20"
						inputmode="numeric"
						maxlength="3"
						bind:value={numbers[s.id]}
					/></label
				>{/each}
		</div>
		<div class="mt-4 flex justify-end gap-2">
			<Button onclick={() => (open = false)}>Cancel</Button>
			<Button type="submit" kind="primary">Save</Button>
		</div>
	</form>
</Dialog>
