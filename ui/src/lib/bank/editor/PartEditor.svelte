<script lang="ts">
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { pairs, type AnyPart } from '$lib/sitting/question/answer';
	import AreaField from './AreaField.svelte';
	import Credit from './Credit.svelte';
	import { freeName, type Content, type Scoring } from './kinds';
	import OptionRows from './OptionRows.svelte';
	import RichField from './RichField.svelte';
	import Rubric from './Rubric.svelte';

	/** One part: what is asked, what can be answered, what is right. Changes its content in place. */
	let { content, at, onchange }: { content: Content; at: number; onchange: () => void } = $props();
	const part = $derived(content.shown.parts[at] as AnyPart);
	const scoring = $derived(content.scoring[at] as Scoring);
	const several = $derived(content.shown.parts.length > 1);
	const before = $derived(content.shown.parts.slice(0, at).map((p) => p.id));
	const separator = $derived(part.type === 'choice' && part.most !== 1 ? '+' : '|');
	const keys = $derived(
		scoring.key
			.split(/[|+]/)
			.map((k) => k.trim())
			.filter(Boolean)
	);
	const accepted = $derived(scoring.key.split('~')[0] ?? '');
	const tolerance = $derived(scoring.key.split('~')[1] ?? '');
	const matched = $derived(pairs(scoring.key));
	const places = $derived(scoring.key.split('>').map((k) => k.trim()));
	const picks = $derived(
		part.type === 'hot_text'
			? [...part.text.matchAll(/<span data-pick="(\w+)">([\s\S]*?)<\/span>/g)].map((m) => ({
					id: m[1] ?? '',
					html: m[2] ?? ''
				}))
			: []
	);

	function set(act: () => void) {
		act();
		onchange();
	}
	const key = (text: string) => set(() => (scoring.key = text));
	const rightOf = (id: string, on: boolean, single: boolean) => {
		const ids = part.type === 'choice' || part.type === 'menu' ? part.options.map((o) => o.id) : picks.map((p) => p.id);
		key(
			single
				? id
				: ids
						.filter((o) => (o === id ? on : keys.includes(o)))
						.join(separator === '+' || part.type === 'hot_text' ? '+' : '|')
		);
	};
	const numeric = (numbers: string, within: string) => key(within.trim() ? `${numbers}~${within.trim()}` : numbers);

	function note(answer: string, text: string) {
		const list = content.behind.misconceptions.filter((m) => !(m.part === part.id && m.answer === answer));
		if (text)
			list.push({
				part: part.id,
				answer,
				note: text,
				link: content.behind.misconceptions.find((m) => m.part === part.id && m.answer === answer)?.link ?? ''
			});
		set(() => (content.behind.misconceptions = list));
	}
	const noteOf = (answer: string) =>
		content.behind.misconceptions.find((m) => m.part === part.id && m.answer === answer)?.note ?? '';
	const linkOf = (answer: string) =>
		content.behind.misconceptions.find((m) => m.part === part.id && m.answer === answer);
	function renamed(from: string[], to: string[]) {
		// a choice taken away leaves the key and the notes as well
		const gone = from.filter((id) => !to.includes(id));
		if (!gone.length) return;
		content.behind.misconceptions = content.behind.misconceptions.filter(
			(m) => m.part !== part.id || !gone.includes(m.answer)
		);
		if (part.type === 'order') scoring.key = places.filter((p) => to.includes(p)).join('>');
		else if (part.type === 'match')
			scoring.key = Object.entries(matched)
				.filter(([r, c]) => !gone.includes(r) && !gone.includes(c))
				.map(([r, c]) => `${r}=${c}`)
				.join(';');
		else scoring.key = keys.filter((k) => to.includes(k)).join(separator);
		scoring.credit = scoring.credit.filter((c) => !c.answer.split('=').some((piece) => gone.includes(piece)));
	}
	function place(id: string, to: number) {
		const rest = places.filter((p) => p && p !== id);
		rest.splice(to, 0, id);
		key(rest.join('>'));
	}
	const match = (row: string, column: string) => {
		if (part.type !== 'match') return;
		const next = { ...matched, [row]: column };
		key(
			part.rows
				.filter((r) => next[r.id])
				.map((r) => `${r.id}=${next[r.id]}`)
				.join(';')
		);
	};
</script>

{#if several && part.type !== 'menu' && !(part.type === 'entry' && part.inline)}
	<div class="field mb-2">
		Prompt<RichField
			html={part.prompt}
			label="Prompt of part {part.id}"
			small
			onchange={(html) => set(() => (part.prompt = html))}
		/>
	</div>
{/if}
{#if part.type === 'choice' || part.type === 'menu'}
	{@const single = part.type === 'menu' || part.most === 1}
	<OptionRows
		options={part.options}
		what="choice"
		onchange={(options) =>
			set(() => {
				renamed(
					part.options.map((o) => o.id),
					options.map((o) => o.id)
				);
				part.options = options;
			})}
		fresh={() => freeName(part.options.map((o) => o.id))}
	>
		{#snippet lead(option)}
			<label class="flex h-8 items-center gap-1 text-[12.5px]">
				<input
					class="accent-petrol"
					type={single ? 'radio' : 'checkbox'}
					name="key-{part.id}"
					aria-label="{option.id} is correct"
					checked={keys.includes(option.id)}
					onchange={(e) => rightOf(option.id, e.currentTarget.checked, single)}
				/> <b class="w-4">{option.id}</b>
			</label>
		{/snippet}
		{#snippet tail(option)}
			{#if !keys.includes(option.id)}
				<div class="mt-1 flex gap-2">
					<input
						class="input mt-0 flex-1 text-[13px]"
						maxlength="400"
						placeholder="Misconception behind this answer"
						aria-label="Misconception behind {option.id}"
						value={noteOf(option.id)}
						oninput={(e) => note(option.id, e.currentTarget.value)}
					/>
					{#if noteOf(option.id)}<input
							class="input mt-0 w-[130px] text-[13px]"
							maxlength="400"
							placeholder="standard or link"
							aria-label="Standard or link that helps with {option.id}"
							value={linkOf(option.id)?.link ?? ''}
							oninput={(e) => {
								const m = linkOf(option.id);
								if (m) set(() => (m.link = e.currentTarget.value));
							}}
						/>{/if}
				</div>
			{/if}
		{/snippet}
	</OptionRows>
	{#if part.type === 'choice' && !single}
		<div class="mt-2 flex flex-wrap items-end gap-4">
			<label class="field w-[150px]"
				>Maximum choices (0: no limit)<input
					class="input"
					type="number"
					min="0"
					max={part.options.length}
					value={part.most}
					oninput={(e) =>
						set(
							() => (part.most = Math.max(0, Number(e.currentTarget.value) === 1 ? 0 : Number(e.currentTarget.value)))
						)}
				/></label
			>
			<Checkbox checked={scoring.partial} onchange={(on) => set(() => (scoring.partial = on))} class="pb-1.5"
				>partial credit; incorrect choices are subtracted</Checkbox
			>
		</div>
	{/if}
{:else if part.type === 'entry'}
	<div class="grid grid-cols-[repeat(auto-fill,minmax(170px,1fr))] gap-2">
		<label class="field"
			>Answer type
			<Select
				value={part.numeric ? 'number' : 'words'}
				choices={[
					{ value: 'number', label: 'a number' },
					{ value: 'words', label: 'a few words' }
				]}
				onchange={(to) =>
					set(() => {
						part.numeric = to === 'number';
						scoring.key = accepted;
					})}
			/>
		</label>
		<label class="field col-span-2"
			>{part.numeric ? 'Correct numbers, such as 0.5 or 1/2|0.5' : 'Correct answers, separated by |'}<input
				class="input"
				maxlength="400"
				value={part.numeric ? accepted : scoring.key}
				oninput={(e) => (part.numeric ? numeric(e.currentTarget.value, tolerance) : key(e.currentTarget.value))}
			/></label
		>
		{#if part.numeric}
			<label class="field"
				>Tolerance<input
					class="input"
					value={tolerance}
					placeholder="0"
					oninput={(e) => numeric(accepted, e.currentTarget.value)}
				/></label
			>
			<label class="field"
				>Unit shown after the field<input
					class="input"
					maxlength="40"
					value={part.unit}
					oninput={(e) => set(() => (part.unit = e.currentTarget.value))}
				/></label
			>
			<label class="field"
				>Accepted units, separated by commas<input
					class="input"
					value={scoring.units.join(', ')}
					onchange={(e) =>
						set(
							() =>
								(scoring.units = e.currentTarget.value
									.split(',')
									.map((u) => u.trim())
									.filter(Boolean))
						)}
				/></label
			>
			<label class="field"
				>Number format
				<Select
					value={scoring.writing}
					choices={[
						{ value: 'any', label: 'any form: 1/2 is 0.5' },
						{ value: 'whole', label: 'a whole number' },
						{ value: 'decimal', label: 'a decimal' },
						{ value: 'fraction', label: 'a fraction' },
						{ value: 'lowest', label: 'in lowest terms' }
					]}
					onchange={(to) => set(() => (scoring.writing = to as Scoring['writing']))}
				/>
			</label>
			{#if scoring.units.length}<Checkbox
					checked={scoring.unit_needed}
					onchange={(on) => set(() => (scoring.unit_needed = on))}
					class="self-end pb-1.5">incorrect without a unit</Checkbox
				>{/if}
		{:else}
			<label class="field"
				>Spelling
				<Select
					value={scoring.spelling}
					choices={[
						{ value: 'plain', label: 'capitals do not matter' },
						{ value: 'exact', label: 'exactly as written' },
						{ value: 'near', label: 'one slip is forgiven' }
					]}
					onchange={(to) => set(() => (scoring.spelling = to as Scoring['spelling']))}
				/>
			</label>
		{/if}
		<label class="field"
			>Field width in characters<input
				class="input"
				type="number"
				min="2"
				max="60"
				value={part.width}
				oninput={(e) => set(() => (part.width = Math.max(2, Math.min(60, Number(e.currentTarget.value) || 12))))}
			/></label
		>
	</div>
	<div class="mt-2">
		<label class="field"
			>Expected wrong answers and what they show: <span class="text-ink2">19 = counts the ends twice</span>
			<textarea
				class="input"
				rows="2"
				value={content.behind.misconceptions
					.filter((m) => m.part === part.id)
					.map((m) => `${m.answer} = ${m.note}`)
					.join('\n')}
				onchange={(e) =>
					set(
						() =>
							(content.behind.misconceptions = [
								...content.behind.misconceptions.filter((m) => m.part !== part.id),
								...e.currentTarget.value
									.split('\n')
									.map((l) => l.split('='))
									.filter((l) => l[0]?.trim() && l[1]?.trim())
									.map((l) => ({
										part: part.id,
										answer: (l[0] ?? '').trim(),
										note: l.slice(1).join('=').trim(),
										link: ''
									}))
							])
					)}></textarea></label
		>
	</div>
{:else if part.type === 'order'}
	<p class="small mb-1">Shown in this order at first; the number is the correct position.</p>
	<OptionRows
		options={part.options}
		what="thing"
		onchange={(options) =>
			set(() => {
				const old = part.options.map((o) => o.id);
				renamed(
					old,
					options.map((o) => o.id)
				);
				const fresh = options.map((o) => o.id).filter((id) => !old.includes(id));
				if (fresh.length) scoring.key = [...places.filter(Boolean), ...fresh].join('>');
				part.options = options;
			})}
		fresh={() =>
			freeName(
				part.options.map((o) => o.id),
				'o'
			)}
	>
		{#snippet lead(option)}
			<label class="flex h-8 items-center"
				><span class="sr-only">Position of {option.id}</span>
				<Select
					value={places.indexOf(option.id)}
					choices={part.options.map((_, n) => ({ value: n, label: `${n + 1}` }))}
					onchange={(to) => place(option.id, Number(to))}
					class="mt-0 w-[58px]"
				/></label
			>
		{/snippet}
	</OptionRows>
	<Checkbox checked={scoring.partial} onchange={(on) => set(() => (scoring.partial = on))} class="mt-2"
		>partial credit for neighbors in the right order</Checkbox
	>
{:else if part.type === 'match'}
	<div class="grid grid-cols-2 gap-4">
		<div>
			<p class="small mb-1">{part.sorted_into ? 'Things to sort' : 'Rows'}, each with its correct match</p>
			<OptionRows
				options={part.rows}
				what={part.sorted_into ? 'thing' : 'row'}
				onchange={(rows) =>
					set(() => {
						renamed(
							part.rows.map((o) => o.id),
							rows.map((o) => o.id)
						);
						part.rows = rows;
					})}
				fresh={() =>
					freeName(
						part.rows.map((o) => o.id),
						'r'
					)}
				least={1}
			>
				{#snippet tail(row)}
					<Select
						label="Where {row.id} belongs"
						choices={[
							{ value: '', label: 'nowhere' },
							...part.columns.map((c) => ({ value: c.id, label: `${c.html.replace(/<[^>]+>/g, ' ') || c.id}` }))
						]}
						value={matched[row.id] ?? ''}
						onchange={(to) => match(row.id, to)}
						small
					/>
				{/snippet}
			</OptionRows>
		</div>
		<div>
			<p class="small mb-1">{part.sorted_into ? 'Categories' : 'Columns'}</p>
			<OptionRows
				options={part.columns}
				what={part.sorted_into ? 'category' : 'column'}
				onchange={(columns) =>
					set(() => {
						renamed(
							part.columns.map((o) => o.id),
							columns.map((o) => o.id)
						);
						part.columns = columns;
					})}
				fresh={() =>
					freeName(
						part.columns.map((o) => o.id),
						'c'
					)}
			/>
		</div>
	</div>
	<Checkbox checked={scoring.partial} onchange={(on) => set(() => (scoring.partial = on))} class="mt-2"
		>partial credit for each correct match</Checkbox
	>
{:else if part.type === 'hot_text'}
	<p class="small mb-1">Write the text, select each phrase that students can choose, and press “selectable”.</p>
	<RichField
		html={part.text}
		label="Text with selectable phrases"
		onpick={() =>
			freeName(
				picks.map((p) => p.id),
				'w'
			)}
		onchange={(html) => set(() => (part.text = html))}
	/>
	<div class="mt-2 flex flex-wrap items-center gap-3">
		{#each picks as p (p.id)}<Checkbox checked={keys.includes(p.id)} onchange={(on) => rightOf(p.id, on, false)}
				>{p.html.replace(/<[^>]+>/g, ' ')}</Checkbox
			>{:else}<span class="small">No selectable phrases yet.</span>{/each}
	</div>
	<div class="mt-2 flex flex-wrap items-end gap-4">
		<label class="field w-[150px]"
			>Maximum selections (0: no limit)<input
				class="input"
				type="number"
				min="0"
				value={part.most}
				oninput={(e) => set(() => (part.most = Math.max(0, Number(e.currentTarget.value))))}
			/></label
		>
		<Checkbox checked={scoring.partial} onchange={(on) => set(() => (scoring.partial = on))} class="pb-1.5"
			>partial credit</Checkbox
		>
	</div>
{:else if part.type === 'line'}
	<div class="grid grid-cols-3 gap-2">
		{#each [['low', 'From'], ['high', 'To'], ['every', 'A tick every'], ['step', 'The point moves by']] as const as [name, title] (name)}
			<label class="field"
				>{title}<input
					class="input"
					inputmode="decimal"
					value={part[name]}
					onchange={(e) => {
						const n = Number(e.currentTarget.value.replace(',', '.'));
						if (Number.isFinite(n)) set(() => (part[name] = n));
					}}
				/></label
			>
		{/each}
		<label class="field"
			>Correct position<input
				class="input"
				value={accepted}
				oninput={(e) => numeric(e.currentTarget.value, tolerance)}
			/></label
		>
		<label class="field"
			>Tolerance<input
				class="input"
				placeholder="0"
				value={tolerance}
				oninput={(e) => numeric(accepted, e.currentTarget.value)}
			/></label
		>
	</div>
{:else if part.type === 'point'}
	<AreaField {part} areas={scoring.key} onpart={() => onchange()} onareas={key} />
{:else if part.type === 'writing'}
	<div class="mb-2 grid grid-cols-3 gap-2">
		<label class="field"
			>Lines to write on<input
				class="input"
				type="number"
				min="1"
				max="60"
				value={part.lines}
				oninput={(e) => set(() => (part.lines = Math.max(1, Math.min(60, Number(e.currentTarget.value) || 6))))}
			/></label
		>
		<label class="field"
			>Character limit<input
				class="input"
				type="number"
				min="20"
				max="20000"
				value={part.longest}
				onchange={(e) =>
					set(() => (part.longest = Math.max(20, Math.min(20000, Number(e.currentTarget.value) || 4000))))}
			/></label
		>
		{#if before.length}<label class="field"
				>Explains the answer to<Select
					value={part.beside}
					choices={[
						{ value: '', label: 'nothing (a separate answer)' },
						...before.map((id) => ({ value: id, label: `part ${id}` }))
					]}
					onchange={(to) =>
						set(() => {
							part.beside = to;
							if (part.beside) {
								scoring.points = 0;
								scoring.rubric = [];
							}
						})}
				/></label
			>{/if}
	</div>
	{#if !part.beside}<Rubric {scoring} {onchange} />{/if}
{/if}
<Credit {part} {scoring} {onchange} />
{#if several && before.length && !(part.type === 'writing')}
	<div class="mt-2 flex flex-wrap items-end gap-3">
		<label class="field w-[220px]"
			>Scored only if<Select
				value={scoring.needs}
				choices={[
					{ value: '', label: 'always' },
					...before.map((id) => ({ value: id, label: `part ${id} is correct` }))
				]}
				onchange={(to) =>
					set(() => {
						scoring.needs = to;
						if (!scoring.needs) scoring.carried = [];
					})}
			/></label
		>
		{#if scoring.needs}
			<label class="field min-w-[280px] flex-1"
				>Or following the answer given there: <span>B → C</span>, one per line<textarea
					class="input"
					rows="2"
					value={scoring.carried.map((c) => `${c.after} → ${c.key}`).join('\n')}
					onchange={(e) =>
						set(
							() =>
								(scoring.carried = e.currentTarget.value
									.split('\n')
									.map((l) => l.split(/→|->/))
									.filter((l) => l[0]?.trim() && l[1]?.trim())
									.map((l) => ({ after: (l[0] ?? '').trim(), key: (l[1] ?? '').trim() })))
						)}></textarea></label
			>
		{/if}
	</div>
{/if}
