<script lang="ts">
	import Select from '$lib/design/Select.svelte';
	import type { Schemas } from '$lib/api/client';
	import { valueOf } from './line';

	/** The line's fields as controls; each writes into the line, so that the line can be read, kept and sent. */
	let {
		fields,
		subjects,
		grades,
		line,
		onnarrow
	}: {
		fields: Schemas['Fields'];
		subjects: string[];
		grades: string[];
		line: string;
		onnarrow: (field: string, value: string, sign?: string) => void;
	} = $props();
	const MENUS = $derived([
		['subject', 'Subject', subjects.map((s) => [s, s])],
		['grade', 'Grade', grades.map((g) => [g, `grade ${g}`])],
		['type', 'Kind', fields.kinds.map((k) => [k.name, String(k.value)])],
		['state', 'Stands', fields.states.map((s) => [s, s.replace('_', ' ')])],
		['depth', 'Depth', ['1', '2', '3', '4'].map((d) => [d, `depth ${d}`])],
		['topic', 'Topic', fields.topics.map((t) => [t, t])],
		['unit', 'Unit', fields.units.map((u) => [u, u])],
		['label', 'Keyword', fields.labels.map((l) => [l, l])],
		[
			'used',
			'Used',
			[
				['never', 'never'],
				['year', 'this year'],
				['ever', 'ever']
			]
		],
		['flag', 'Flag', fields.flags.map((f) => [f, f.replaceAll('_', ' ')])],
		['calculator', 'Calculator', ['none', 'basic', 'scientific'].map((c) => [c, c])],
		[
			'is',
			'Is a',
			[
				['template', 'template'],
				['copy', 'copy'],
				['draft', 'draft']
			]
		]
	] as [string, string, [string, string][]][]);
</script>

<div class="mt-2 grid grid-cols-[repeat(auto-fill,minmax(122px,1fr))] gap-2">
	{#each MENUS.filter(([, , values]) => values.length) as [name, title, values] (name)}
		<label class="field"
			>{title}
			<Select
				value={valueOf(line, name)}
				choices={[{ value: '', label: 'any' }, ...values.map(([value, word]) => ({ value: value, label: word }))]}
				onchange={(to) => onnarrow(name, to)}
			/>
		</label>
	{/each}
	{#each [['p', '>', 'Correct, above'], ['p', '<', 'Correct, below'], ['r', '<', 'r (rest), below'], ['times', '<', 'Used fewer times than']] as [name, sign, title] (`${name}${sign}`)}
		<label class="field"
			>{title}<input
				class="input"
				inputmode="decimal"
				placeholder={name === 'p' ? '40%' : ''}
				value={valueOf(line, name ?? '', sign)}
				onchange={(e) => onnarrow(name ?? '', e.currentTarget.value.trim(), sign)}
			/></label
		>
	{/each}
</div>
<p class="small mt-2">
	The search line above shows these filters as text. Copy the page address to share this list. A minus sign excludes a
	word or field: <code>-used:year</code>.
</p>
