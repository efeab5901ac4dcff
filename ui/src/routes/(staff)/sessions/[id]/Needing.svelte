<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { Room } from './room.svelte';

	/** Who needs somebody now, and why. */
	let { room }: { room: Room } = $props();
	const data = $derived(room.page.data!);
	/** More than these make a list of its own; the table below has all of them. */
	const MOST = 6;
	const first = $derived([...room.needing].sort((a, b) => Number(b.room.help) - Number(a.room.help)).slice(0, MOST));
	const more = $derived(room.needing.length - first.length);
</script>

{#if room.needing.length}
	<Panel label="Needs you now" class="mt-3 px-4 py-2.5">
		<h2 class="mb-1">Needs you now</h2>
		<ul class="text-[14px]">
			{#each first as line (line.id)}
				<li class="flex flex-wrap items-center gap-x-3 border-t border-hair2 py-1 first:border-t-0">
					<b class="min-w-[170px] font-semibold">{staff.name(line.name, data.sittings.indexOf(line))}</b>
					<span class="flex-1">{line.room.signs.join('; ')}</span>
					{#if line.room.help}<Button disabled={room.busy} onclick={() => room.do('helped', [line])}>Helped</Button
						>{/if}
					{#if line.room.away}<Button disabled={room.busy} onclick={() => room.do('back', [line])}
							>Back in the room</Button
						>{/if}
				</li>
			{/each}
		</ul>
		{#if more > 0}<p class="small border-t border-hair2 pt-1">and {more} more in the list below</p>{/if}
	</Panel>
{/if}
