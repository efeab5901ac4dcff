<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import type { Content } from '$lib/bank/editor/kinds';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import type { Draft } from './draft.svelte';

	/** Variables, so that the item can be drawn with other values; ten draws are shown, two hundred looked through. */
	let { draft }: { draft: Draft } = $props();
	let draws = $state<Schemas['DrawsView'] | null>(null);
	let problem = $state('');
	let seed = $state(1);
	let open = $state<number | null>(null);
	type Variable = Schemas['Template']['variables'][number];

	const template = $derived(draft.template);

	function begin() {
		draft.template = { variables: [{ type: 'number', name: 'a', low: '2', high: '9', step: '1' }], constraints: [] };
		draft.changed();
	}
	function add(type: Variable['type']) {
		const taken = template?.variables.map((v) => v.name) ?? [];
		const name = [...'abcdefghijklmnopqrstuvwxyz'].find((l) => !taken.includes(l)) ?? `v${taken.length}`;
		template?.variables.push(
			type === 'number'
				? { type, name, low: '1', high: '10', step: '1' }
				: type === 'list'
					? { type, name, values: ['red', 'blue'] }
					: { type, name, value: 'a + 1' }
		);
		draft.changed();
	}
	async function look() {
		problem = '';
		try {
			draws = await body(
				api.POST('/api/bank/draws', {
					body: {
						content: $state.snapshot(draft.content) as Content,
						template: $state.snapshot(draft.template) as Schemas['Template'],
						seed
					}
				})
			);
		} catch (error) {
			[draws, problem] = [null, said(error)];
		}
	}
</script>

<Panel label="Variants" class="p-4">
	<div class="flex items-center gap-3">
		<h2 class="flex-1">Other values{template ? '' : ': none'}</h2>
		{#if template}<Button
				kind="quiet"
				onclick={() => {
					draft.template = null;
					draws = null;
					draft.changed();
				}}>Remove variables</Button
			>
		{:else}<Button onclick={begin}>Make template</Button>{/if}
	</div>
	{#if template}
		<p class="small mb-2">
			Write <code>{'{a}'}</code> in text, choices and keys; <code>{'{a:fraction}'}</code>, <code>{'{a:money}'}</code>,
			<code>{'{a:signed}'}</code>
			and <code>{'{a:spelled}'}</code> shape it. Computed values know + − * / **, abs, min, max, gcd, lcm, round, floor, ceil,
			numerator, denominator and whole.
		</p>
		{#each template.variables as v, at (at)}
			<div class="mb-1 flex flex-wrap items-end gap-2">
				<label class="field w-[64px]"
					>Name<input
						class="input"
						maxlength="16"
						value={v.name}
						onchange={(e) => {
							v.name = e.currentTarget.value.trim();
							draft.changed();
						}}
					/></label
				>
				{#if v.type === 'number'}
					{#each [['low', 'from'], ['high', 'to'], ['step', 'in steps of']] as const as [name, title] (name)}<label
							class="field w-[84px]"
							>{title}<input
								class="input"
								value={v[name]}
								onchange={(e) => {
									v[name] = e.currentTarget.value.trim();
									draft.changed();
								}}
							/></label
						>{/each}
				{:else if v.type === 'list'}
					<label class="field min-w-[180px] flex-1"
						>one of, separated by |<input
							class="input"
							value={v.values.join(' | ')}
							onchange={(e) => {
								v.values = e.currentTarget.value
									.split('|')
									.map((x) => x.trim())
									.filter(Boolean);
								draft.changed();
							}}
						/></label
					>
				{:else}
					<label class="field min-w-[180px] flex-1"
						>computed<input
							class="input font-mono"
							maxlength="200"
							value={v.value}
							onchange={(e) => {
								v.value = e.currentTarget.value.trim();
								draft.changed();
							}}
						/></label
					>
				{/if}
				<Button
					kind="quiet"
					disabled={template.variables.length < 2}
					onclick={() => {
						template.variables.splice(at, 1);
						draft.changed();
					}}>Remove</Button
				>
			</div>
		{/each}
		<div class="flex flex-wrap gap-2">
			<Button onclick={() => add('number')}>Add number</Button><Button onclick={() => add('list')}>Add list</Button
			><Button onclick={() => add('computed')}>Add computed value</Button>
		</div>
		<label class="field mt-2"
			>Conditions, one per line: <code>a != b</code><textarea
				class="input font-mono"
				rows="2"
				value={template.constraints.join('\n')}
				onchange={(e) => {
					template.constraints = e.currentTarget.value
						.split('\n')
						.map((l) => l.trim())
						.filter(Boolean);
					draft.changed();
				}}></textarea></label
		>
		<div class="mt-3 flex items-end gap-3">
			<label class="field w-[90px]">First draw<input class="input" type="number" min="0" bind:value={seed} /></label>
			<Button onclick={look}>Show ten draws</Button>
			{#if draws}<span class={draws.wrong ? 'notch' : ''}>{draws.finding}</span>{/if}
			{#if problem}<span class="text-vermilion" role="alert">{problem}</span>{/if}
		</div>
		{#if draws}
			<Table class="mt-2">
				<thead
					><tr
						><th>Draw</th>{#each template.variables as v (v.name)}<th>{v.name}</th>{/each}<th>Key</th><th></th></tr
					></thead
				>
				<tbody>
					{#each draws.draws as d (d.seed)}
						<tr tabindex="-1" data-row onclick={() => (open = open === d.seed ? null : d.seed)}>
							<td>{d.seed}</td>{#each template.variables as v (v.name)}<td>{d.values[v.name] ?? ''}</td>{/each}
							<td>{d.content?.scoring.map((s) => s.key).join('; ') ?? ''}</td><td
								>{#if d.wrong}<span class="notch">{d.wrong}</span>{/if}</td
							>
						</tr>
						{#if open === d.seed && d.content}<tr
								><td colspan={template.variables.length + 3} class="bg-paper p-3"><ItemCard item={d.content} /></td></tr
							>{/if}
					{/each}
				</tbody>
			</Table>
		{/if}
	{/if}
</Panel>
