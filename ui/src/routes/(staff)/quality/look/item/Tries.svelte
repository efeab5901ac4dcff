<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { decimal, percent, short } from '$lib/words/show';
	import { address } from '../address.svelte';

	/** What would change if the item were scored otherwise. Nothing is changed by trying. */
	let {
		code,
		suggestions,
		answers,
		place,
		window
	}: {
		code: string;
		suggestions: Schemas['Suggestion'][];
		answers: string[];
		place: string;
		/** null: nothing is corrected from here */
		window: string | null;
	} = $props();
	let shown = $state<Schemas['MovesOut'] | null>(null);
	let problem = $state('');
	let way = $state('key');
	let answer = $state('');
	let mine = 0;

	async function look(w: string, a: string) {
		const me = ++mine;
		try {
			const found = await body(
				api.GET('/api/quality/try', { params: { query: { ...address.scope, item: code, way: w, answer: a } } })
			);
			if (me === mine) [shown, problem] = [found, ''];
		} catch (error) {
			if (me === mine) problem = said(error);
		}
	}
	// what the flags call for is tried at once, so that the answer stands beside the question
	$effect(() => {
		void address.key;
		const first = suggestions[0];
		if (first) void look(first.way, first.answer);
		else shown = null;
	});
	/** The page where what was tried becomes a correction. */
	function correcting(w: string, a: string): string {
		const kind = w === 'key' || w === 'also' ? 'key' : w;
		const wish = new URLSearchParams({ window: window ?? '', kind });
		if (kind === 'key') wish.set(w, a);
		return `/scoring/correct/${place}?${wish}`;
	}
	const needs = $derived(way === 'key' || way === 'also');
	const ROWS = $derived<[string, string, string][]>(
		shown
			? [
					['correct', percent(shown.moved.p.before), percent(shown.moved.p.after)],
					['r (rest)', short(shown.moved.r_rest.before), short(shown.moved.r_rest.after)],
					['alpha', short(shown.moved.alpha.before, 3), short(shown.moved.alpha.after, 3)],
					[
						'mean',
						`${decimal(shown.moved.mean.before)} of ${shown.moved.points.before}`,
						`${decimal(shown.moved.mean.after)} of ${shown.moved.points.after}`
					]
				]
			: []
	);
</script>

<Panel label="What would change" headed class="p-4 text-[13.5px]">
	<div class="mb-2 flex flex-wrap items-center gap-1.5">
		{#each suggestions as s (s.way + s.answer)}<Button
				class="min-h-[28px]"
				aria-pressed={shown?.moved.way === s.way && shown.moved.answer === s.answer}
				onclick={() => look(s.way, s.answer)}>{s.why}</Button
			>{/each}
		<form class="flex items-center gap-1.5" onsubmit={(e) => (e.preventDefault(), look(way, needs ? answer : ''))}>
			<Select
				label="Try"
				choices={[
					{ value: 'key', label: 'another key' },
					{ value: 'also', label: 'a second answer' },
					{ value: 'everybody', label: 'full credit for everyone' },
					{ value: 'drop', label: 'drop the item' }
				]}
				bind:value={way}
				small
				class="w-[150px]"
			/>
			{#if needs}<Select
					label="Answer"
					choices={answers.map((a) => ({ value: a, label: `${a.slice(0, 40)}` }))}
					bind:value={answer}
					placeholder="answer"
					small
					class="w-[92px]"
				/>{/if}
			<Button type="submit" kind="quiet" class="min-h-[28px]">Try</Button>
		</form>
	</div>
	{#if problem}<p class="text-vermilion" role="alert">{problem}</p>{/if}
	{#if shown}
		<p class="mb-1" role="status">{shown.says}</p>
		<Table>
			<thead><tr><th class="pl-0"></th><th class="n">now</th><th class="n pr-0">then</th></tr></thead><tbody
				>{#each ROWS as [name, before, after] (name)}<tr
						><td class="h-6 pl-0 text-ink2">{name}</td><td class="n h-6">{before}</td><td
							class="n h-6 pr-0 font-semibold">{after}</td
						></tr
					>{/each}</tbody
			>
		</Table>
		<div class="mt-1 flex items-center gap-3">
			<p class="small flex-1">Nothing is changed by trying.</p>
			{#if window}<Button kind="quiet" href={correcting(shown.moved.way, shown.moved.answer)}>Correct results …</Button
				>{/if}
		</div>
	{:else if !suggestions.length}<p class="small">Nothing about it calls for another scoring.</p>{/if}
</Panel>
