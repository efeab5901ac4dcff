<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Table from '$lib/design/Table.svelte';
	import { moment } from '$lib/words/show';
	import Ask from './Ask.svelte';

	/** Corrections that were made, each with the way back. */
	let {
		lines,
		where = false,
		onundo
	}: {
		lines: Schemas['CorrectionLine'][];
		/** whether the test is named as well */
		where?: boolean;
		onundo: (id: string, why: string) => Promise<void>;
	} = $props();
	const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
</script>

<Table within="sheet">
	<thead
		><tr
			><th>Correction</th>{#if where}<th>Test</th>{/if}<th>What moved</th><th>Why</th><th
				><span class="sr-only">Actions</span></th
			></tr
		></thead
	>
	<tbody>
		{#each lines as line (line.id)}
			<tr class={line.undone_at ? 'text-ink2' : ''}>
				<td class="max-w-[260px]"
					>{#if where}<a
							class="word font-semibold"
							href="/scoring/correct/{line.place}?window={line.window_id}"
							data-row>{sentence(line.what)}</a
						>{:else}<span class="font-semibold">{sentence(line.what)}</span>{/if}<span class="small block"
						>{line.by}, {moment(line.at)}</span
					></td
				>
				{#if where}<td>{line.form}<span class="small block">{line.window}</span></td>{/if}
				<td class="max-w-[280px]">{line.moved}</td>
				<td class="max-w-[220px]">{line.reason}</td>
				<td class="n">
					{#if line.undone_at}<span class="small block text-left"
							>Undone by {line.undone_by}, {moment(line.undone_at)}: {line.undone_why}</span
						>{:else}<Ask
							quiet
							label="Undo …"
							question="Every result becomes what it was before this correction."
							reason="Why it is undone"
							yes="Undo"
							onyes={(why) => onundo(line.id, why)}
						/>{/if}
				</td>
			</tr>
		{/each}
	</tbody>
</Table>
