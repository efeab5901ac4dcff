<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';

	/** Some students become a group, or join one that names its members; one stays where one is. */
	let { people, name, label = 'Create group' }: { people: string[]; name: string; label?: string } = $props();
	const some = $derived([...new Set(people)]);
	const count = $derived(some.length === 1 ? '1 student' : `${some.length} students`);
	let open = $state(false);
	let title = $state('');
	let groups = $state<Schemas['GroupLine'][]>([]);
	let into = $state('');
	let problem = $state('');
	let made = $state<{ id: string; name: string } | null>(null);

	async function begin() {
		[open, problem, made, title, into] = [true, '', null, name.slice(0, 80), ''];
		try {
			groups = (await body(api.GET('/api/groups'))).groups.filter((g) => g.may_change && g.rule === null);
		} catch (error) {
			problem = said(error);
		}
	}
	async function go(event: Event) {
		event.preventDefault();
		try {
			if (into)
				await body(
					api.POST('/api/groups/{group_id}/members', {
						params: { path: { group_id: into } },
						body: { add: some, drop: [] }
					})
				);
			const id = into || (await body(api.POST('/api/groups', { body: { name: title.trim(), members: some } }))).id;
			[open, made] = [false, { id, name: groups.find((g) => g.id === into)?.name ?? title.trim() }];
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<svelte:window onkeydown={(e) => open && e.key === 'Escape' && (open = false)} />

{#if staff.may('groups.write') && some.length}
	{#if !open}
		<span class="inline-flex flex-wrap items-center gap-2"
			><Button class="min-h-[26px]" onclick={begin}>{label}</Button>{#if made}<span class="text-[13px]" role="status"
					>{count} in <a class="word" href="/people/groups/{made.id}">{made.name}</a></span
				>{/if}</span
		>
	{:else}
		<form
			class="my-1 flex w-full flex-wrap items-end gap-2 rounded-[4px] border border-relief3 bg-wash px-3 py-2 text-[13.5px]"
			aria-label="New group of {some.length}"
			onsubmit={go}
		>
			{#if groups.length}<label class="field min-w-[150px]"
					>{count} into<Select
						bind:value={into}
						choices={[
							{ value: '', label: 'a new group' },
							...groups.map((g) => ({ value: g.id, label: `${g.name} (${g.members})` }))
						]}
					/></label
				>{/if}
			{#if !into}<label class="field min-w-[200px] flex-1"
					>Group name<!-- svelte-ignore a11y_autofocus --><input
						class="input"
						bind:value={title}
						maxlength="80"
						required
						autofocus
					/></label
				>{/if}
			<Button type="submit" kind="primary" disabled={!into && !title.trim()}>{into ? 'Add them' : 'Create'}</Button>
			<Button onclick={() => (open = false)}>Cancel</Button>
			{#if problem}<p class="basis-full text-vermilion" role="alert">{problem}</p>{/if}
		</form>
	{/if}
{/if}
