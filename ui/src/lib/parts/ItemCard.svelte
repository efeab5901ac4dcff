<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import type { Schemas } from '$lib/api/client';
	import { pairs } from '$lib/sitting/question/answer';
	import Markup from './Markup.svelte';

	/** An item in brief for staff: its text, its answers with the key underlined, what a wrong one says. */
	type Item = Pick<Schemas['BankItem'], 'shown' | 'scoring'> & {
		stimulus?: Schemas['StimulusView'] | null;
		behind?: Schemas['Behind'];
	};
	let { item }: { item: Item } = $props();
	const lettered = $derived(item.shown.parts.length > 1);
	const keyOf = (id: string) => item.scoring.find((s) => s.id === id);
	const noteOf = (part: string, answer: string) =>
		item.behind?.misconceptions.find((m) => m.part === part && m.answer === answer)?.note ?? '';
	const body = $derived(
		item.shown.body.replace(
			/<span data-gap="(\w+)"><\/span>/g,
			(_, id: string) => `<span class="slot">${gapText(id)}</span>`
		)
	);

	/** In the text of a list a gap shows its key. */
	function gapText(id: string): string {
		const part = item.shown.parts.find((p) => p.id === id);
		const key = keyOf(id)?.key ?? '';
		const said = part?.type === 'menu' ? (part.options.find((o) => o.id === key)?.html ?? key) : key;
		return said.replace('|', ' or ') || '…';
	}
</script>

<div class="text-[14.5px] leading-normal">
	{#if item.stimulus}<p class="small mb-1">
			About <a class="word" href="/bank/stimuli/{item.stimulus.id}">{item.stimulus.title}</a>
		</p>{/if}
	<Markup html={body} />
	{#each item.shown.parts as part, at (part.id)}
		{@const scored = keyOf(part.id)}
		{@const keys = (scored?.key ?? '').split(/[|+]/).map((k) => k.trim())}
		<div class:mt-3={lettered}>
			{#if part.prompt || (lettered && part.type !== 'menu' && !(part.type === 'entry' && part.inline))}<div
					class="flex gap-2"
				>
					{#if lettered}<b class="text-ink2">{'abcdefghijkl'[at]})</b>{/if}<Markup html={part.prompt} />
				</div>{/if}
			{#if part.type === 'choice'}
				<ol class="mt-2">
					{#each part.options as option (option.id)}
						{@const right = keys.includes(option.id)}
						<li class="py-0.5">
							<span class="flex gap-2.5"
								><b class="w-4 flex-none font-semibold" class:underline={right}>{option.id}</b><span
									><Markup html={option.html} inline />{#if right}<span class="small ml-2">key</span
										>{/if}{#if scored?.credit.some((c) => c.answer === option.id)}<span class="small ml-2"
											>{scored.credit.find((c) => c.answer === option.id)?.points} points</span
										>{/if}</span
								></span
							>
							{#if noteOf(part.id, option.id)}<span class="small block pl-[26px]">{noteOf(part.id, option.id)}</span
								>{/if}
						</li>
					{/each}
				</ol>
			{:else if part.type === 'menu'}
				<p class="small mt-1">
					Choices in the text: {#each part.options as o, n (o.id)}{n ? ', ' : ''}<span
							class:underline={keys.includes(o.id)}><Markup html={o.html} inline /></span
						>{/each}
				</p>
			{:else if part.type === 'entry' && !part.inline}
				<p class="mt-2">
					<span class="small">{part.numeric ? 'A number' : 'Short text'}; key</span>
					<b>{(scored?.key ?? '').replace('~', ' ± ').replaceAll('|', ' or ')} {part.unit}</b>
				</p>
			{:else if part.type === 'order'}
				<ol class="mt-2 ml-5 list-decimal">
					{#each (scored?.key ?? '').split('>') as id (id)}<li>
							<Markup html={part.options.find((o) => o.id === id.trim())?.html ?? id} inline />
						</li>{/each}
				</ol>
			{:else if part.type === 'match'}
				{@const right = pairs(scored?.key ?? '')}
				<Table class="mt-2 w-auto">
					<tbody
						>{#each part.rows as row (row.id)}<tr
								><td><Markup html={row.html} inline /></td><td class="text-ink2">{part.sorted_into ? 'in' : 'with'}</td
								><td
									><b
										><Markup
											html={(right[row.id] ?? '')
												.split('|')
												.map((c) => part.columns.find((o) => o.id === c.trim())?.html ?? 'nothing')
												.join(' or ')}
											inline
										/></b
									></td
								></tr
							>{/each}</tbody
					>
				</Table>
			{:else if part.type === 'hot_text'}
				<div class="mt-2 rounded bg-paper px-3 py-2">
					<Markup
						html={part.text.replace(/<span data-pick="(\w+)">/g, (_, id) =>
							keys.includes(id) ? '<span class="slot">' : '<span class="pick">'
						)}
					/>
				</div>
			{:else if part.type === 'line'}
				<p class="mt-2">
					<span class="small">On a line from {part.low} to {part.high}; key</span>
					<b>{(scored?.key ?? '').replace('~', ' ± ')}</b>
				</p>
			{:else if part.type === 'point'}
				<img class="mt-2 max-h-[180px] rounded border border-hair" src="/api/media/{part.picture}" alt={part.told} />
				<p class="small">Key: {(scored?.key ?? '').replaceAll('|', ' or ')}</p>
			{:else if part.type === 'writing'}
				<p class="small mt-1">
					{part.beside
						? 'A written explanation, saved and not scored.'
						: `Writing, ${scored?.points ?? 0} points by ${scored?.rubric.map((c) => c.title.toLowerCase()).join(', ') || 'a rubric'}.`}
				</p>
			{/if}
			{#if scored?.credit.length && part.type !== 'choice'}<p class="small mt-1">
					Points by answer: {scored.credit.map((c) => `${c.answer} ${c.points}`).join(', ')}.
				</p>{/if}
			{#if scored?.needs}<p class="small">
					Scored only if part {scored.needs} is correct{scored.carried.length
						? ', or following the answer given there'
						: ''}.
				</p>{/if}
		</div>
	{/each}
</div>
