<script lang="ts">
	import Markup from '$lib/parts/Markup.svelte';
	import Body from './Body.svelte';
	import { inline, readAnswer, writeAnswer, type Shown } from './answer';
	import Categories from './Categories.svelte';
	import Choice from './Choice.svelte';
	import Entry from './Entry.svelte';
	import HotText from './HotText.svelte';
	import NumberLine from './NumberLine.svelte';
	import Order from './Order.svelte';
	import Pairs from './Pairs.svelte';
	import Point from './Point.svelte';
	import Tray from './Tray.svelte';
	import Writing from './Writing.svelte';

	/** A question as the student sees and answers it: text, parts, tools. name: unique on the page. */
	let {
		shown,
		answer,
		name,
		number = '',
		crossing = false,
		locked = false,
		onanswer
	}: {
		shown: Shown;
		answer: string;
		name: string;
		number?: string;
		crossing?: boolean;
		locked?: boolean;
		onanswer: (answer: string) => void;
	} = $props();

	const given = $derived(readAnswer(shown, answer));
	const blocks = $derived(shown.parts.filter((p) => !inline(p)));
	const lettered = $derived(blocks.length > 1);
	const put = (id: string, text: string) => onanswer(writeAnswer(shown, { ...given, [id]: text }));
</script>

<div class="mb-4 flex gap-3 text-[19px]">
	{#if number}<b class="flex-none">{number}</b>{/if}
	<div class="min-w-0 flex-1"><Body {shown} {given} {name} onput={put} /></div>
</div>
{#if shown.tools.length}<Tray tools={shown.tools} />{/if}
{#each blocks as part, at (part.id)}
	{@const value = given[part.id] ?? ''}
	{@const onput = (text: string) => put(part.id, text)}
	<div class:mt-6={lettered && at > 0}>
		{#if part.prompt || lettered}
			<div class="mb-2 flex gap-2.5 text-[18px]">
				{#if lettered && !(part.type === 'writing' && part.beside)}<b class="flex-none text-ink2"
						>{'abcdefghijkl'[at]})</b
					>{/if}
				<div class="min-w-0"><Markup html={part.prompt} /></div>
			</div>
		{/if}
		{#if part.type === 'choice'}<Choice {part} name="{name}-{part.id}" {value} {crossing} {locked} {onput} />
		{:else if part.type === 'entry'}<Entry {part} {value} {onput} />
		{:else if part.type === 'order'}<Order {part} {value} {onput} />
		{:else if part.type === 'match' && part.sorted_into}<Categories {part} {value} {onput} />
		{:else if part.type === 'match'}<Pairs {part} name="{name}-{part.id}" {value} {onput} />
		{:else if part.type === 'hot_text'}<HotText {part} {value} {onput} />
		{:else if part.type === 'line'}<NumberLine {part} {value} {onput} />
		{:else if part.type === 'point'}<Point {part} {value} {onput} />
		{:else if part.type === 'writing'}<Writing {part} {value} {onput} />{/if}
	</div>
{/each}
