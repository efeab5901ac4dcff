<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { api, body, said as sentence, type Schemas } from '$lib/api/client';
	import { flagWords, percent, short } from '$lib/words/show';
	import Answers from './Answers.svelte';
	import FigurePanel from './FigurePanel.svelte';
	import { address } from './address.svelte';
	import type { Item } from './view.svelte';

	/** One item in brief: why it wants a look, how its answers run, the workings of its figures. */
	let { item, names }: { item: Item; names: boolean } = $props();
	let seen = $state<Schemas['ItemViewOut'] | null>(null);
	let figure = $state<string | null>(null);
	let question = $state(false);
	let tried = $state('');
	let problem = $state('');

	const FIGURES = ['p', 'r_rest', 'd27', 'alpha_without'] as const;
	const TITLES: Record<string, string> = {
		p: 'correct',
		r_rest: 'r (rest)',
		d27: 'upper − lower 27%',
		alpha_without: 'alpha drop the item'
	};
	const value = (name: (typeof FIGURES)[number]) =>
		name === 'p' ? percent(item.p) : name === 'alpha_without' ? short(item.alpha_without, 3) : short(item[name]);
	const heavy = $derived(item.flags.filter((f) => f.weight !== 'note'));
	const title = $derived(
		heavy[0] ? flagWords(heavy[0].flag) : item.sound === null ? 'not examined: too few students' : 'sound'
	);
	const said = $derived(item.flags.filter((f, at) => at < 3 || f.weight === 'problem'));
	const rest = $derived(
		[...new Set(item.flags.map((f) => flagWords(f.flag)))].filter((w) => !said.some((f) => flagWords(f.flag) === w))
	);
	const notes = $derived(Object.fromEntries((seen?.notes ?? []).map((n) => [n.answer, n.note])));

	$effect(() => {
		let current = true;
		body(api.GET('/api/quality/item', { params: { query: { ...address.scope, item: item.item } } }))
			.then((answer) => {
				if (current) [seen, problem] = [answer, ''];
			})
			.catch((error) => current && (problem = sentence(error)));
		return () => (current = false);
	});
</script>

<div class="flex items-baseline gap-2">
	<span class="small flex-1"
		>Item {item.number} · <code>{item.item}</code> · <StandardCode code={item.standards[0] ?? ''} /></span
	><Button class="min-h-[28px]" href={address.href('/quality/look/item', { item: item.item })}>Open item</Button>
</div>
<h2 class="mt-1 {heavy[0]?.weight === 'problem' ? 'text-vermilion' : ''}">{title[0]?.toUpperCase()}{title.slice(1)}</h2>
{#if problem}<p class="my-2 border-l-4 border-vermilion pl-3">{problem}</p>{/if}
{#each said as flag, at (flag.flag + at)}<p class="my-1.5 {flag.weight === 'note' ? 'text-ink2' : ''}">
		{flag.why}
	</p>{/each}
{#if rest.length}<p class="small my-1.5">Also: {rest.join(', ')}.</p>{/if}
{#if item.judged_on !== null}<p class="small my-1.5">
		Flags are based on all {item.judged_on} students who reached this item, not only the {item.n} in this view.
	</p>{/if}
{#if !item.flags.length}<p class="my-1.5 text-ink2">
		{item.sound === null
			? 'What it looks like is below; it takes 25 students to examine it.'
			: 'Nothing about it calls for a look.'}
	</p>{/if}
<div class="small mt-2">Share of each answer, from the weakest to the strongest</div>
<Answers {item} curves={seen?.curves ?? null} {notes} />
<div class="mt-3 grid grid-cols-4 gap-1 border-t border-hair pt-3">
	{#each FIGURES as name (name)}
		<button
			class="cursor-pointer rounded p-1 text-left text-[12px] leading-tight text-ink2 hover:bg-wash"
			class:bg-wash={figure === name}
			aria-expanded={figure === name}
			onclick={() => (figure = figure === name ? null : name)}
		>
			<b class="block text-[16px] text-ink">{value(name)}</b>{TITLES[name]}
		</button>
	{/each}
</div>
{#if figure}<div class="mt-1 border-l-2 border-petrol pl-3"><FigurePanel {figure} item={item.item} compact /></div>{/if}
<div class="mt-3 flex flex-wrap gap-2">
	<Button aria-expanded={question} onclick={() => (question = !question)}
		>{question ? 'Hide the question' : 'Show the question'}</Button
	>
	{#if names}<Button href={address.href('/quality/look/item', { item: item.item, who: 'all' })}
			>Who gave which answer</Button
		>{/if}
</div>
{#if question && seen}
	<div class="mt-3 rounded bg-paper p-3">
		{#await import('$lib/sitting/question/Sheet.svelte') then { default: Sheet }}<Sheet
				shown={seen.item.shown}
				stimulus={seen.item.stimulus}
				answer={tried}
				name="look-{item.item}"
				onanswer={(answer: string) => (tried = answer)}
			/>{/await}
	</div>
{/if}
