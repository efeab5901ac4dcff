<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import Markup from '$lib/parts/Markup.svelte';

	/** Two versions side by side, or a copy beside what it came from: what differs first, then both whole. */
	let {
		id,
		versions,
		origin,
		originVersion
	}: {
		id: string;
		versions: Schemas['VersionLine'][];
		origin: Schemas['Related'] | null;
		originVersion: number | null;
	} = $props();
	// svelte-ignore state_referenced_locally
	let before = $state(origin && originVersion ? 'origin' : String(versions[1]?.number ?? 1));
	// svelte-ignore state_referenced_locally
	let after = $state(String(versions[0]?.number ?? 1));
	let found = $state<Schemas['CompareOut'] | null>(null);
	let problem = $state('');
	let whole = $state(false);

	$effect(() => {
		// the older one is asked of its own item, so that a copy can stand beside its origin
		const from =
			before === 'origin' && origin
				? { item: origin.id, number: originVersion ?? 1 }
				: { item: id, number: Number(before) };
		const query = { before: from.number, after: Number(after), other: id };
		let current = true;
		body(api.GET('/api/bank/items/{item_id}/compare', { params: { path: { item_id: from.item }, query } }))
			.then((answer) => current && ([found, problem] = [answer, '']))
			.catch((error) => current && (problem = said(error)));
		return () => (current = false);
	});
</script>

<Panel label="Compare" class="p-4">
	<div class="mb-2 flex flex-wrap items-end gap-3">
		<h2 class="flex-1">
			Differences{found
				? `: ${
						found.differences.length === 0
							? 'nothing'
							: found.differences
									.map((d) => d.what)
									.slice(0, 4)
									.join(', ')
					}`
				: ''}
		</h2>
		<Select
			label="Before"
			choices={[
				...(origin && originVersion ? [{ value: 'origin', label: `${origin.code}, version ${originVersion}` }] : []),
				...versions.map((v) => ({ value: String(v.number), label: `version ${v.number}` }))
			]}
			bind:value={before}
			class="mt-0 w-auto"
		/>
		<span class="pb-1">and</span>
		<Select
			label="After"
			choices={versions.map((v) => ({ value: String(v.number), label: `version ${v.number}` }))}
			bind:value={after}
			class="mt-0 w-auto"
		/>
		<Button aria-expanded={whole} onclick={() => (whole = !whole)}>{whole ? 'Only what differs' : 'Both whole'}</Button>
	</div>
	{#if problem}<p class="text-vermilion">{problem}</p>{/if}
	{#if found && whole}
		<div class="grid grid-cols-2 gap-4"><ItemCard item={found.before} /><ItemCard item={found.after} /></div>
	{:else if found}
		{#each found.differences as d (d.what)}
			<div class="grid grid-cols-[110px_1fr_1fr] gap-3 border-t border-hair2 py-1.5 text-[13.5px]">
				<span class="text-ink2">{d.what}</span>
				{#each [d.before, d.after] as side, n (n)}<div class="min-w-0 {n ? '' : 'text-ink2'}">
						{#if !side}<span class="small">nothing</span>{:else if d.html}<Markup html={side} />{:else}{side}{/if}
					</div>{/each}
			</div>
		{/each}
	{/if}
</Panel>
