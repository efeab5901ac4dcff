<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import type { Schemas } from '$lib/api/client';
	import { percent } from '$lib/words/show';
	import Interval from '../Interval.svelte';

	/** How many got it here, in each class, in the whole federation and before, with intervals. */
	let { rows, line }: { rows: Schemas['Beside'][]; line: number } = $props();
	const TITLES: Record<string, string> = {
		view: 'Here',
		class: 'By class',
		school: 'By school',
		federation: 'District',
		earlier: 'Earlier'
	};
	const kinds = $derived([...new Set(rows.map((r) => r.kind))]);
</script>

<Panel label="Correct, compared with others" headed class="p-4">
	<Table class="text-[13px]">
		<tbody>
			{#each kinds as kind (kind)}
				{#each rows.filter((r) => r.kind === kind) as r, at (r.name)}
					<tr
						><td class="small h-[26px] pl-0 whitespace-nowrap">{at === 0 ? TITLES[kind] : ''}</td><td
							class="h-[26px] w-full max-w-0 truncate"
							title={r.name}>{kind === 'view' ? '' : r.name}</td
						><td class="n h-[26px]">{r.n}</td><td class="n h-[26px] whitespace-nowrap">{percent(r.p)}</td><td
							class="h-[26px] pr-0"><Interval p={r.p} ci={r.ci95} {line} width={110} /></td
						></tr
					>
				{/each}
			{/each}
		</tbody>
	</Table>
	{#if !rows.some((r) => r.kind === 'earlier')}<p class="small mt-1">It was not given before.</p>{/if}
</Panel>
