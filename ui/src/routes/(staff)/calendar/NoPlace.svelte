<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { Plan } from './plan.svelte';

	/** Tests without a place, the largest first, each with its reason; and the steps that would give them one. */
	let { plan }: { plan: Plan } = $props();
	const left = $derived(plan.board.left);
	const may = $derived(plan.board.may && plan.board.mine && !plan.working);
	let all = $state(false);
	const shown = $derived(all ? left : left.slice(0, 4));
</script>

<section class="sheet mb-2 px-4 py-3" aria-label="Tests without a place">
	<div class="mb-2 flex items-center gap-3">
		<h2>No place yet</h2>
		{#if may}{#if plan.ways}
				{#each plan.ways as way (way.kind)}<Button onclick={() => plan.takeWay(way.kind)}>{way.says}</Button
					>{:else}<span class="small">No single step gives them a place.</span>{/each}
			{:else}<Button disabled={plan.looking} onclick={() => plan.lookForWays()}
					>{plan.looking ? 'Trying steps …' : 'Find ways out'}</Button
				>{/if}{/if}
	</div>
	<div class="grid grid-cols-4 gap-x-4 gap-y-3 max-[1100px]:grid-cols-2">
		{#each shown as one (one.key)}
			<div class="flex gap-3 text-[13.5px]">
				<b class="text-[18px] leading-tight">{one.students}</b>
				<div class="min-w-0">
					<b class="block font-semibold">{one.name}</b>
					<span class="block text-ink2">{one.why}</span>
					{#if one.students <= 3}<span class="small"
							>{one.who.map((s, place) => staff.name(s.name, place)).join(', ')}</span
						>{/if}
				</div>
			</div>
		{/each}
	</div>
	{#if left.length > 4}<button class="word small mt-2" onclick={() => (all = !all)}
			>{all ? 'Show the largest' : `Show all ${left.length}`}</button
		>{/if}
</section>
