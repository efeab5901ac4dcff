<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { moment } from '$lib/words/show';
	import { api, body, said, type Schemas } from '$lib/api/client';

	/** Tags for many items at once: what would change is shown, and what was changed can be undone. */
	let {
		fields,
		find,
		items,
		total,
		ondone
	}: { fields: Schemas['Fields']; find: string; items: string[]; total: number; ondone: () => void } = $props();
	let change = $state<Record<string, string>>({});
	let look = $state<Schemas['TagPreview'] | null>(null);
	let past = $state<Schemas['TagsDone'][]>([]);
	let problem = $state('');
	let done = $state('');
	let busy = $state(false);

	const FIELDS: [string, string, string[]][] = $derived([
		['topic', 'Topic', fields.topics],
		['unit', 'Unit', fields.units],
		['depth', 'Depth (1–4)', ['1', '2', '3', '4']],
		['seconds', 'Seconds', []],
		['calculator', 'Calculator', ['none', 'basic', 'scientific']],
		['source', 'Source', fields.sources],
		['language', 'Language', []],
		['grade', 'Grade', []],
		['subject', 'Subject', []],
		['label', 'Add keyword', fields.labels],
		['unlabel', 'Remove keyword', fields.labels],
		['standard', 'Main standard', []],
		['touch', 'Additional standard', []],
		['untouch', 'Remove standard', []]
	]);
	const wire = $derived.by(() => {
		const out: Schemas['TagsIn'] = { label: [], unlabel: [], standard: '', touch: '', untouch: '', enemies: '' };
		for (const [name, value] of Object.entries(change)) {
			const text = value.trim();
			if (!text) continue;
			const clear = text === '—';
			if (name === 'depth' || name === 'seconds') out[name] = clear ? 0 : Number(text);
			else if (name === 'label' || name === 'unlabel')
				out[name] = text
					.split(',')
					.map((t) => t.trim())
					.filter(Boolean);
			else (out as Record<string, unknown>)[name] = clear ? '' : text;
		}
		return out;
	});
	const any = $derived(Object.values(change).some((v) => v.trim()));

	async function past_ones() {
		past = await body(api.GET('/api/bank/tags'));
	}
	$effect(() => void past_ones().catch((error) => (problem = said(error))));

	async function ask(apply: boolean) {
		busy = true;
		problem = '';
		done = '';
		try {
			const what = { find: items.length ? '' : find, items, change: wire, stamp: look?.stamp ?? '' };
			if (apply) {
				const answer = await body(api.POST('/api/bank/tags', { body: what }));
				done = `${answer.changed} ${answer.changed === 1 ? 'item was' : 'items were'} changed.`;
				look = null;
				change = {};
				await past_ones();
				ondone();
			} else look = await body(api.POST('/api/bank/tags/look', { body: what }));
		} catch (error) {
			problem = said(error);
			look = null;
		}
		busy = false;
	}

	async function undo(id: string) {
		try {
			const answer = await body(api.POST('/api/bank/tags/{change_id}/undo', { params: { path: { change_id: id } } }));
			done = `Undone for ${answer.items} ${answer.items === 1 ? 'item' : 'items'}.`;
			await past_ones();
			ondone();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Panel label="Tag items" class="p-4">
	<h2 class="mb-2">Tag {items.length ? `${items.length} selected` : `all ${total} results`}</h2>
	<div class="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-2">
		{#each FIELDS as [name, title, values] (name)}
			<label class="field"
				>{title}
				<input
					class="input"
					list={values.length ? `tag-${name}` : undefined}
					value={change[name] ?? ''}
					oninput={(e) => {
						change[name] = e.currentTarget.value;
						look = null;
					}}
				/>
				{#if values.length}<datalist id="tag-{name}"
						>{#each values as v (v)}<option value={v}></option>{/each}</datalist
					>{/if}
			</label>
		{/each}
		<label class="field"
			>Enemy items
			<Select
				value={change.enemies ?? ''}
				choices={[
					{ value: '', label: 'no change' },
					{ value: 'apart', label: 'never on the same form' },
					{ value: 'together', label: 'allowed together' }
				]}
				onchange={(to) => {
					change.enemies = to;
					look = null;
				}}
			/>
		</label>
	</div>
	<p class="small mt-2">Empty fields are not changed; a dash (—) removes a tag.</p>
	<div class="mt-3 flex items-center gap-3">
		<Button disabled={!any || busy} onclick={() => ask(false)}>Preview</Button>
		{#if look}<span>{look.finding}</span>{#if look.changed || change.enemies}<Button
					kind="primary"
					disabled={busy}
					onclick={() => ask(true)}>Apply</Button
				>{/if}{/if}
		{#if done}<span role="status">{done}</span>{/if}
		{#if problem}<span class="text-vermilion" role="alert">{problem}</span>{/if}
	</div>
	{#if look?.lines.length}
		<Table within="mt-2 max-h-[200px]">
			<thead><tr><th class="w-[110px]">Item</th><th class="w-[110px]">Tag</th><th>Now</th><th>Then</th></tr></thead>
			<tbody
				>{#each look.lines as l (l.item_id)}{#each l.changes as c (c.field)}<tr
							><td><code>{l.code}</code></td><td>{c.field}</td><td class="text-ink2">{c.before || 'nothing'}</td><td
								>{c.after || 'nothing'}</td
							></tr
						>{/each}{/each}</tbody
			>
		</Table>
	{/if}
	{#if past.length}
		<details class="mt-3">
			<summary class="small min-h-[24px] cursor-pointer">Earlier changes ({past.length})</summary>
			{#each past as p (p.id)}
				<div class="flex items-center gap-3 border-b border-hair2 py-1 text-[13px]">
					<span class="flex-1">{p.what}; {p.items} {p.items === 1 ? 'item' : 'items'}, {p.by}, {moment(p.at)}</span>
					{#if p.undone}<span class="text-ink2">undone</span>{:else}<Button
							class="min-h-[26px]"
							onclick={() => undo(p.id)}>Undo</Button
						>{/if}
				</div>
			{/each}
		</details>
	{/if}
</Panel>
