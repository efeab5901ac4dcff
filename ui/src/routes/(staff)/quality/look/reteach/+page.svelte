<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api, body, type Schemas } from '$lib/api/client';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { decimal, percent } from '$lib/words/show';
	import Interval from '../Interval.svelte';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';

	/** For one class: what is under the watch line, the common wrong answers, and who needs it. */
	const of = $derived(address.get('of') ?? '');
	const asked = new Asked(
		() => body(api.GET('/api/quality/reteach', { params: { query: { ...address.scope, of } } })),
		() => of
	);
	const data = $derived(asked.data);
	const name = (n: Schemas['ReteachStudent']) => staff.name(n.name, n.alias);
</script>

<Notice text={asked.problem} />
{#if data}
	<Finding of="Reteach" station="Item quality" class="mb-2 max-w-[900px]">{data.finding}</Finding>
	<div class="small mb-3 flex flex-wrap items-center gap-3">
		<label class="flex items-center gap-1.5"
			>Class <Select
				value={data.class_id}
				choices={data.classes.map((c) => ({ value: c.id, label: `${c.name} (${c.n})` }))}
				onchange={(to) => address.set({ of: to })}
				small
				class="w-auto"
			/></label
		>
		<span>Watch line {percent(data.watch_line)}; items to review are flagged over all students in the view.</span>
		<Button
			kind="quiet"
			class="min-h-[26px] ml-auto"
			href={address.href('/quality/look/reports', { question: 'reteach', of: data.class_id })}>Print</Button
		>
	</div>
	{#each data.standards as s (s.standard)}
		<Panel
			label={s.text || s.standard}
			class="mb-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_minmax(0,1fr)] gap-5 p-4 text-[13.5px]"
		>
			<div>
				<h2 class="mb-1">{s.text || s.standard}</h2>
				<p class="small">
					<StandardCode code={s.standard} /> · {s.points}
					{s.points === 1 ? 'point' : 'points'} on this test
				</p>
				<div class="mt-2 flex items-center gap-2">
					<b class="text-[20px] font-semibold">{percent(s.share)}</b><Interval
						p={s.share}
						ci={s.ci95}
						line={data.watch_line}
						width={140}
					/>
				</div>
				<p class="small mt-1">
					{s.share >= data.watch_line
						? 'over the line as a whole; single items are under it'
						: s.sure
							? 'surely under the line'
							: 'under the line, but that may be chance'}
				</p>
			</div>
			<div>
				{#each s.items as i (i.item)}
					<div class="border-b border-hair2 pb-1.5 mb-1.5 last:border-b-0">
						<p>
							<a class="word font-semibold" href={address.href('/quality/look/item', { item: i.item })}
								>Item {i.number}</a
							>
							{percent(i.p)}{#if i.flagged}<span class="notch ml-2 text-[12.5px]">review the item first</span>{/if}
						</p>
						<p class="small">{i.text}</p>
						{#each i.wrong.slice(0, 3) as w (w.answer)}<p class="text-ink2">
								<b class="font-semibold text-ink">{w.answer}</b> by {w.n}{w.note
									? `: ${w.note}`
									: ''}{#if w.who.length}<span class="small block pl-3"
										>{#each w.who as p, n (p.person)}{n ? ', ' : ''}<a
												class="word whitespace-nowrap"
												href="/people/{p.person}">{staff.name(p.name, p.alias)}</a
											>{/each}</span
									>{/if}
							</p>{/each}
					</div>
				{:else}<p class="small">No single item is under the line.</p>{/each}
			</div>
			<div>
				<p class="mb-1"><b class="font-semibold">{s.need.length} of {s.n} need it</b></p>
				<p class="text-ink2">
					{#each s.need as n, at (n.person)}{at ? ', ' : ''}<span class="whitespace-nowrap"
							><a class="word" href="/people/{n.person}">{name(n)}</a>
							<span class="small">{decimal(n.earned, n.earned % 1 ? 1 : 0)}/{decimal(n.possible, 0)}</span></span
						>{/each}
				</p>
				{#if s.thin}<p class="small mt-1">{s.points} points are few to judge a single student by.</p>{/if}
				<div class="mt-2"><MakeGroup people={s.need.map((n) => n.person)} name="{data.klass}: {s.standard}" /></div>
			</div>
		</Panel>
	{:else}<p class="sheet p-4 text-ink2">Nothing is under the watch line in this class.</p>{/each}
{:else if asked.busy}<p class="small" role="status">Looking …</p>{/if}
