<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import type { Schemas } from '$lib/api/client';
	import { plain } from '$lib/words/plain';
	import type { Drag } from './drag.svelte';
	import type { FormPage } from './form.svelte';

	/** The items of the form in their order; of a draft they can be moved, swapped and removed. */
	let { shown, drag }: { shown: FormPage; drag: Drag } = $props();
	const form = $derived(shown.form);
	const draft = $derived(shown.draft);
	let open = $state<string | null>(null);
	let swapping = $state<number | null>(null);
	let nearest = $state<Schemas['Equal'][] | null>(null);

	async function swap(at: number) {
		if (swapping === at) return void (swapping = null);
		[swapping, nearest] = [at, null];
		const version = form?.items[at]?.version_id;
		if (version) nearest = await shown.nearest(version);
	}

	function exchange(at: number, other: Schemas['BankItem']) {
		swapping = null;
		shown.exchange(at, other);
	}

	function keys(event: KeyboardEvent, at: number) {
		if (!draft) return;
		if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
			event.preventDefault();
			const to = at + (event.key === 'ArrowUp' ? -1 : 1);
			shown.move(at, to);
			requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-place="${to}"]`)?.focus());
		}
		if (event.altKey && shown.several && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
			event.preventDefault();
			shown.toPart(at, (form?.parts[at] ?? 0) + (event.key === 'ArrowLeft' ? -1 : 1));
		}
		if (event.key === 'Delete') shown.drop(at);
		if (event.key === 's' && event.target === event.currentTarget) void swap(at);
	}

	const head = $derived(
		!draft
			? 'On the form'
			: shown.several
				? 'On the form (drag; Alt with arrows up and down, left and right for parts)'
				: 'On the form (drag, or Alt and arrows)'
	);
</script>

<!-- svelte-ignore a11y_no_static_element_interactions (dropping is also done by Add and by keys) -->
<div
	{@attach scrollable}
	class="frozen max-h-[calc(100vh-190px)]"
	ondragover={(e) => drag.carried && e.preventDefault()}
	ondrop={() => drag.carried && drag.dropped(shown, form?.items.length ?? 0)}
>
	<Table class="table-fixed">
		<thead>
			<tr>
				<th class="n w-[44px]">No.</th><th>{head}</th><th class="w-[104px]">Standard</th>
				{#if draft}<th class="w-[148px]"></th>{/if}
			</tr>
		</thead>
		<tbody>
			{#each form?.items ?? [] as item, at (item.version_id)}
				{@const part = form?.parts[at] ?? 0}
				{#if shown.several && (at === 0 || part !== form?.parts[at - 1])}
					<tr>
						<th colspan="4" class="h-8 bg-paper text-left text-[12.5px]">
							{shown.partName(part)}
							{#if draft && !shown.sorted && at === 0}
								<Button kind="quiet" class="min-h-[24px] float-right" onclick={() => shown.byParts()}
									>Sort by section</Button
								>
							{/if}
						</th>
					</tr>
				{/if}
				<tr
					tabindex="0"
					data-row
					data-place={at}
					draggable={draft}
					class:opacity-40={drag.from === at}
					class:dropmark={drag.over === at && drag.running}
					ondragstart={() => (drag.from = at)}
					ondragover={(e) => (e.preventDefault(), (drag.over = at))}
					ondrop={(e) => (e.stopPropagation(), drag.dropped(shown, at))}
					ondragend={() => drag.end()}
					onkeydown={(e) => keys(e, at)}
					onclick={() => (open = open === item.version_id ? null : item.version_id)}
				>
					<td class="n">{at + 1}</td>
					<td class="truncate"><code class="mr-1 text-ink2">{item.code}</code> {plain(item.shown.body)}</td>
					<td><StandardCode code={item.standards[0] ?? ''} /></td>
					{#if draft}
						<td class="n whitespace-nowrap"
							><Button
								kind="quiet"
								class="min-h-[26px]"
								aria-label="Swap {item.code}"
								title="Show the most similar items (s)"
								aria-expanded={swapping === at}
								onclick={(e) => (e.stopPropagation(), swap(at))}>Swap</Button
							><Button
								kind="quiet"
								class="min-h-[26px]"
								aria-label="Remove {item.code}"
								onclick={(e) => (e.stopPropagation(), shown.drop(at))}>Remove</Button
							></td
						>
					{/if}
				</tr>
				{#if swapping === at}
					<tr>
						<td colspan="4" class="bg-paper p-3">
							{#if nearest === null}<span class="small">Looking …</span>
							{:else}
								{#each nearest as one, n (one.item.version_id)}
									<div class="flex items-center gap-2 border-b border-hair2 py-1 text-[12.5px]">
										<!-- svelte-ignore a11y_autofocus -->
										<Button
											class="min-h-[26px]"
											autofocus={n === 0}
											onclick={(e) => (e.stopPropagation(), exchange(at, one.item))}>Use</Button
										>
										<code class="whitespace-nowrap text-ink2">{one.item.code}</code>
										<span class="min-w-0 flex-1 truncate">{plain(one.item.shown.body)}</span>
										<span class="text-ink2">{one.differs}</span>
									</div>
								{:else}<span class="small">The bank has no other item for these standards.</span>{/each}
							{/if}
						</td>
					</tr>
				{/if}
				{#if open === item.version_id}
					<tr><td colspan="4" class="bg-paper p-4"><ItemCard {item} /></td></tr>
				{/if}
			{:else}
				<tr>
					<td colspan="4" class="py-6 text-ink2"
						>This form has no items yet. Add items from the bank on the left, or drag them here.</td
					>
				</tr>
			{/each}
		</tbody>
	</Table>
</div>
