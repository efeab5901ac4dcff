<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import { api, body, type Schemas } from '$lib/api/client';

	/** The workings of a figure whose numbers the page has already: what it is, its formula, these numbers, when not to trust it. */
	let {
		figure,
		result,
		numbers = [],
		counted = ''
	}: { figure: string; result: string; numbers?: [string, string][]; counted?: string } = $props();
	let text = $state<Schemas['FigureOut'] | null>(null);

	$effect(() => {
		let current = true;
		void body(api.GET('/api/quality/figures/{name}', { params: { path: { name: figure } } })).then(
			(answer) => current && (text = answer)
		);
		return () => (current = false);
	});
</script>

{#if text}
	<div class="small">How this was calculated</div>
	<h2>{text.title}</h2>
	<div class="my-1 text-[26px] leading-tight font-semibold">{result}</div>
	<p class="my-2">{text.plain}</p>
	<p class="my-2 rounded bg-paper px-2.5 py-1.5 font-mono text-[12px] leading-relaxed break-words">{text.formula}</p>
	<Table class="my-1">
		<tbody
			>{#each numbers as [name, value] (name)}<tr
					><td class="h-6 pl-0 text-ink2">{name}</td><td class="n h-6 pr-0">{value}</td></tr
				>{/each}</tbody
		>
	</Table>
	{#if counted}<p class="small my-2">{counted}</p>{/if}
	{#if text.caution}<p class="small my-2">{text.caution}</p>{/if}
	{#if text.source}<p class="small my-2">{text.source}</p>{/if}
{/if}
