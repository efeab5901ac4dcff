<script lang="ts">
	import { onMount } from 'svelte';
	import { page } from '$app/state';
	import { api, body, Problem, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import Assemble from './Assemble.svelte';

	type Plan = Schemas['Plan'];
	let blueprint = $state<Schemas['BlueprintView'] | null>(null);
	let plan = $state<Plan | null>(null);
	let standards = $state<Schemas['StandardLine'][]>([]);
	let fields = $state<Schemas['Fields'] | null>(null);
	let kinds = $state<Schemas['KindOut'][]>([]);
	let problem = $state('');
	let saving = $state('');
	let building = $state(false);
	let timer: ReturnType<typeof setTimeout> | undefined;
	let queue = Promise.resolve();

	const id = $derived(page.params.id ?? '');
	const mine = $derived(
		standards.filter(
			(s) =>
				(!blueprint?.subject || s.subject === blueprint.subject) && (!blueprint?.grade || s.grade === blueprint.grade)
		)
	);
	const texts = $derived(new Map(standards.map((s) => [s.code, s.text])));
	const may = $derived(blueprint?.may_write ?? false);

	onMount(load);

	async function load() {
		try {
			[blueprint, { standards }, fields, kinds] = await Promise.all([
				body(api.GET('/api/building/blueprints/{blueprint_id}', { params: { path: { blueprint_id: id } } })),
				body(api.GET('/api/bank/overview')),
				body(api.GET('/api/bank/fields')),
				body(api.GET('/api/building/kinds'))
			]);
			plan = structuredClone($state.snapshot(blueprint.content)) as Plan;
		} catch (error) {
			problem = said(error);
		}
	}

	/** Kept a moment after the last change; what somebody else changed meanwhile is told, and nothing is overwritten. */
	function changed() {
		saving = 'Saving …';
		clearTimeout(timer);
		timer = setTimeout(save, 600);
	}

	function save() {
		queue = queue.then(async () => {
			if (!blueprint || !plan) return;
			const { revision, name, subject, grade, kind } = blueprint;
			try {
				const kept = await body(
					api.PUT('/api/building/blueprints/{blueprint_id}', {
						params: { path: { blueprint_id: id } },
						body: { revision, name, subject, grade, kind, content: $state.snapshot(plan) as Plan }
					})
				);
				blueprint = { ...kept, name, subject, grade, kind };
				saving = 'All is kept';
				problem = '';
			} catch (error) {
				problem = said(error);
				saving = error instanceof Problem && error.status === 409 ? 'Not kept: changed elsewhere' : 'Not kept';
			}
		});
		return queue;
	}

	const row = (standard = ''): Schemas['RowKept'] => ({
		low: 2,
		high: 2,
		count: 'items',
		standard,
		topic: '',
		unit: '',
		depth: null,
		kind: '',
		part: 0
	});
	function each() {
		if (!plan) return;
		const there = new Set(plan.rows?.map((r) => r.standard));
		plan.rows = [...(plan.rows ?? []), ...mine.filter((s) => !there.has(s.code)).map((s) => row(s.code))];
		changed();
	}
	function whole(name: 'items' | 'points' | 'minutes' | 'sets', side: 'low' | 'high', text: string) {
		if (!plan) return;
		const value = text === '' ? null : Number(text);
		const now = plan[name];
		if (value === null) plan[name] = null;
		else if (!now) plan[name] = { low: side === 'low' ? value : 0, high: value };
		else plan[name] = { ...now, [side]: value };
		changed();
	}
	const WHOLE: ['items' | 'points' | 'minutes' | 'sets', string][] = [
		['items', 'Items'],
		['points', 'Points'],
		['minutes', 'Minutes'],
		['sets', 'Stimuli']
	];
</script>

<svelte:head><title>{blueprint?.name ?? 'Blueprint'} · Bildung</title></svelte:head>

{#if blueprint && plan}
	<div class="small mb-1">
		<a class="word" href="/tests">Tests</a> · blueprint{blueprint.subject
			? ` · ${blueprint.subject}`
			: ''}{blueprint.grade ? `, grade ${blueprint.grade}` : ''}
	</div>
	<div class="mb-3 flex items-start gap-4">
		<h1 class="flex-1">{blueprint.finding}</h1>
		<span class="small mt-1.5" role="status">{saving}</span>
		{#if may}<button
				class="btn primary"
				aria-expanded={building}
				disabled={!!blueprint.contradiction || !plan.rows?.length}
				onclick={async () => ((building = !building), await save())}>Find forms</button
			>{/if}
	</div>
{/if}
<Notice text={problem} onclose={() => (problem = '')} />
{#if blueprint && plan}
	{#if building}<Assemble {blueprint} ontake={(nearest) => ((plan = nearest as Plan), changed())} />{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_250px] items-start gap-3">
		<section class="sheet min-w-0 [&_td]:!px-1.5 [&_th]:!px-1.5" aria-label="Rows">
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-230px)]">
				<table>
					<thead
						><tr
							><th>Standard</th><th>Topic</th><th>Depth</th><th>Type</th>{#if (plan.parts?.length ?? 1) > 1}<th>Part</th
								>{/if}<th>From</th><th>To</th><th></th><th>In the bank</th><th></th></tr
						></thead
					>
					<tbody>
						{#each plan.rows ?? [] as r, at (at)}
							{@const stock = blueprint.stock[at]}
							<tr>
								<td>
									<input
										class="input !mt-0 !w-[104px] font-mono text-[12.5px]"
										list="codes"
										aria-label="Row {at + 1}: standard"
										bind:value={r.standard}
										oninput={changed}
										disabled={!may}
									/>
									<div class="small max-w-[104px] truncate" title={texts.get(r.standard ?? '')}>
										{texts.get(r.standard ?? '') ?? ''}
									</div>
								</td>
								<td
									><input
										class="input !mt-0 !w-[84px]"
										list="topics"
										aria-label="Row {at + 1}: topic"
										placeholder="any"
										bind:value={r.topic}
										oninput={changed}
										disabled={!may}
									/></td
								>
								<td>
									<select
										class="input !mt-0 !w-[62px]"
										aria-label="Row {at + 1}: depth"
										bind:value={r.depth}
										onchange={changed}
										disabled={!may}
									>
										<option value={null}>any</option>{#each [1, 2, 3, 4] as depth (depth)}<option value={depth}
												>{depth}</option
											>{/each}
									</select>
								</td>
								<td>
									<select
										class="input !mt-0 !w-[92px]"
										aria-label="Row {at + 1}: type"
										bind:value={r.kind}
										onchange={changed}
										disabled={!may}
									>
										<option value="">any</option>{#each fields?.kinds ?? [] as kind (kind.name)}<option
												value={kind.name}>{kind.value}</option
											>{/each}
									</select>
								</td>
								{#if (plan.parts?.length ?? 1) > 1}
									<td
										><select
											class="input !mt-0 !w-24"
											aria-label="Row {at + 1}: part"
											bind:value={r.part}
											onchange={changed}
											disabled={!may}
											>{#each plan.parts ?? [] as part, n (n)}<option value={n}>{part.name || n + 1}</option
												>{/each}</select
										></td
									>
								{/if}
								<td
									><input
										class="input !mt-0 !w-12 !px-1.5 text-right"
										type="number"
										min="0"
										aria-label="Row {at + 1}: from"
										bind:value={r.low}
										oninput={changed}
										disabled={!may}
									/></td
								>
								<td
									><input
										class="input !mt-0 !w-12 !px-1.5 text-right"
										type="number"
										min="0"
										aria-label="Row {at + 1}: to"
										bind:value={r.high}
										oninput={changed}
										disabled={!may}
									/></td
								>
								<td>
									<select
										class="input !mt-0 !w-[76px] !px-1"
										aria-label="Row {at + 1}: counted in"
										bind:value={r.count}
										onchange={changed}
										disabled={!may}><option value="items">items</option><option value="points">points</option></select
									>
								</td>
								<td class="whitespace-nowrap text-[12.5px]">
									{#if stock}
										{@const have = r.count === 'points' ? stock.points : stock.items}
										<span
											class="inline-block h-2.5 align-middle {stock.missing
												? 'border border-dashed border-ink2'
												: 'bg-relief3'}"
											style:width="{Math.min(60, (have / Math.max(1, r.low)) * 12)}px"
										></span>
										{have}{#if stock.missing}<b class="font-semibold">
												· {stock.missing} missing</b
											>{/if}{#if stock.empties}<div class="small max-w-[180px] whitespace-normal">
												{stock.empties}
											</div>{:else}<div
												class="small"
												title="{stock.known} of {stock.items} items were sat before; {stock.fresh} were not sat this year"
											>
												{stock.known} sat, {stock.fresh} fresh
											</div>{/if}
									{/if}
								</td>
								<td
									>{#if may}<button
											class="btn quiet !min-h-[26px]"
											aria-label="Take row {at + 1} away"
											onclick={() => (plan?.rows?.splice(at, 1), changed())}>×</button
										>{/if}</td
								>
							</tr>
						{:else}<tr
								><td colspan="10" class="!py-6 text-ink2"
									>Nothing yet. Begin with a row for each standard of the grade, or add one.</td
								></tr
							>{/each}
					</tbody>
				</table>
			</div>
			{#if may}
				<div class="flex gap-2 border-t border-hair p-2">
					<button class="btn" onclick={() => (plan?.rows?.push(row()), changed())}>Another row</button>
					{#if mine.length && mine.length < 60}<button class="btn" onclick={each}>A row for each standard</button>{/if}
				</div>
			{/if}
		</section>
		<section class="sheet p-4" aria-label="The whole form">
			<label class="field mb-2"
				>Name<input
					class="input"
					bind:value={blueprint.name}
					oninput={changed}
					maxlength="120"
					disabled={!may}
				/></label
			>
			<div class="mb-2 grid grid-cols-[2fr_1fr] gap-2">
				<label class="field"
					>Subject<input
						class="input"
						list="subjects"
						bind:value={blueprint.subject}
						onchange={changed}
						disabled={!may}
					/></label
				>
				<label class="field"
					>Grade<input class="input" bind:value={blueprint.grade} onchange={changed} disabled={!may} /></label
				>
			</div>
			<label class="field mb-3"
				>Kind
				<select class="input" bind:value={blueprint.kind} onchange={changed} disabled={!may}>
					<option value="">not said</option>{#each kinds as kind (kind.name)}<option value={kind.name}
							>{kind.name === 'spot' ? 'spot check' : kind.name}</option
						>{/each}
				</select>
			</label>
			<p class="small mb-3">{kinds.find((k) => k.name === blueprint?.kind)?.says ?? ''}</p>
			<h2 class="mb-1">The whole form</h2>
			<div class="grid grid-cols-[1fr_64px_64px] items-center gap-x-2 gap-y-1 text-[13px]">
				<span></span><span class="small">from</span><span class="small">to</span>
				{#each WHOLE as [name, word] (name)}
					<span>{word}</span>
					<input
						class="input !mt-0 text-right"
						type="number"
						min="0"
						aria-label="{word} from"
						value={plan[name]?.low ?? ''}
						oninput={(e) => whole(name, 'low', e.currentTarget.value)}
						disabled={!may}
					/>
					<input
						class="input !mt-0 text-right"
						type="number"
						min="0"
						aria-label="{word} to"
						value={plan[name]?.high ?? ''}
						oninput={(e) => whole(name, 'high', e.currentTarget.value)}
						disabled={!may}
					/>
				{/each}
				<span>Items of a stimulus</span>
				<input
					class="input !mt-0 text-right"
					type="number"
					min="0"
					aria-label="Items of a stimulus from"
					bind:value={plan.set_low}
					oninput={changed}
					disabled={!may}
				/>
				<input
					class="input !mt-0 text-right"
					type="number"
					min="1"
					aria-label="Items of a stimulus to"
					bind:value={plan.set_high}
					oninput={changed}
					disabled={!may}
				/>
				<span>Expected share, %</span>
				<input
					class="input !mt-0 text-right"
					type="number"
					min="1"
					max="99"
					aria-label="Expected share in percent"
					placeholder="any"
					value={plan.target ? Math.round(plan.target * 100) : ''}
					oninput={(e) => (
						plan && (plan.target = e.currentTarget.value ? Number(e.currentTarget.value) / 100 : null),
						changed()
					)}
					disabled={!may}
				/>
				<span></span>
			</div>
			<h2 class="mb-1 mt-4">Parts</h2>
			{#each plan.parts ?? [] as part, at (at)}
				<div class="mb-2 grid grid-cols-[1fr_64px_28px] gap-1">
					<input
						class="input !mt-0"
						aria-label="Part {at + 1}: name"
						placeholder="one part"
						bind:value={part.name}
						oninput={changed}
						disabled={!may}
					/>
					<input
						class="input !mt-0 text-right"
						type="number"
						min="1"
						aria-label="Part {at + 1}: minutes"
						placeholder="min"
						bind:value={part.minutes}
						oninput={changed}
						disabled={!may}
					/>
					{#if may && (plan.parts?.length ?? 1) > 1}<button
							class="btn quiet !min-h-[26px]"
							aria-label="Take part {at + 1} away"
							onclick={() => {
								plan?.parts?.splice(at, 1);
								plan?.rows?.forEach((r) => {
									if ((r.part ?? 0) >= at && r.part) r.part -= 1;
								});
								changed();
							}}>×</button
						>{:else}<span></span>{/if}
					<textarea
						class="input col-span-3 !mt-0"
						rows="2"
						aria-label="Part {at + 1}: instructions"
						placeholder="Instructions for students"
						bind:value={part.instructions}
						oninput={changed}
						disabled={!may}></textarea>
				</div>
			{/each}
			{#if may && (plan.parts?.length ?? 0) < 12}<button
					class="btn"
					onclick={() => (plan?.parts?.push({ name: '', instructions: '', minutes: null }), changed())}
					>Another part</button
				>{/if}
			{#if blueprint.forms.length}
				<h2 class="mb-1 mt-4">Forms made from it</h2>
				{#each blueprint.forms as form (form.id)}<div class="flex min-h-[26px] items-center">
						<a class="word leading-[24px]" href="/tests/{form.id}">{form.name}</a>
					</div>{/each}
			{/if}
		</section>
	</div>
	<datalist id="codes"
		>{#each mine as s (s.code)}<option value={s.code}>{s.text}</option>{/each}</datalist
	>
	<datalist id="topics"
		>{#each fields?.topics ?? [] as topic (topic)}<option value={topic}></option>{/each}</datalist
	>
	<datalist id="subjects"
		>{#each [...new Set(standards.map((s) => s.subject))] as subject (subject)}<option value={subject}
			></option>{/each}</datalist
	>
{/if}
