<script lang="ts">
	import { tellKeys } from '$lib/state/keys.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import Companions from './Companions.svelte';
	import Correction from './Correction.svelte';
	import Settings from './Settings.svelte';
	import { api, body, Problem, said, type Schemas } from '$lib/api/client';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import ScoreOutlook from '$lib/parts/ScoreOutlook.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { plain } from '$lib/words/plain';
	import { percent, short } from '$lib/words/show';

	let form = $state<Schemas['FormDetail'] | null>(null);
	let standards = $state<Schemas['StandardLine'][]>([]);
	let bank = $state<Schemas['BankOut'] | null>(null);
	let problem = $state('');
	let saving = $state('');
	let find = $state('');
	let standard = $state('');
	let open = $state<string | null>(null);
	let dragged = $state<number | null>(null);
	let carried = $state<Schemas['BankItem'] | null>(null); // from the bank, while it is dragged
	let over = $state(-1); // the place it would take
	let outlook = $state<Schemas['OutlookOut'] | null>(null);
	let equals = $state<Schemas['Equal'][] | null>(null);
	let checks = $state<Schemas['Check'][] | null>(null);
	let swapping = $state<number | null>(null);
	let panel = $state<'' | 'settings' | 'companions'>('');
	let correction = $state<Schemas['Correction'] | null>(null);
	let asked = 0;
	let queue = Promise.resolve();
	let changes = 0;

	const id = $derived(page.params.id ?? '');
	const draft = $derived(form !== null && form.published_at === null && staff.may('tests.write'));
	const inForm = $derived(new Set(form?.items.map((item) => item.version_id)));
	const texts = $derived(new Map(standards.map((s) => [s.code, s.text])));
	const most = $derived(Math.max(1, ...(form?.coverage ?? []).map((c) => Number(c.value))));
	const ordered = $derived(
		[...standards]
			.filter((s) => s.items)
			.sort((a, b) => Number(fits(b)) - Number(fits(a)) || a.code.localeCompare(b.code))
	);
	const fits = (s: Schemas['StandardLine']) => s.subject === form?.subject && s.grade === form?.grade;

	// a correction leads from one form to the next without leaving the page
	$effect(() => {
		const shown = id;
		untrack(() => void load(shown));
	});

	async function load(form_id: string) {
		[form, outlook, checks, correction, swapping, panel] = [null, null, null, null, null, ''];
		try {
			form = await body(api.GET('/api/forms/{form_id}', { params: { path: { form_id } } }));
			const overview = await body(api.GET('/api/bank/overview'));
			standards = overview.standards;
			await Promise.all([search(), look(), touch()]);
		} catch (error) {
			problem = said(error);
		}
	}

	/** What the form holds and will do, as the server works it out; asked again after every change. */
	async function look() {
		outlook = await body(api.GET('/api/building/forms/{form_id}/outlook', { params: { path: { form_id: id } } }));
	}

	/** Which form this one corrects, which corrects it, and whom that touches. */
	async function touch() {
		correction = await body(api.GET('/api/building/forms/{form_id}/correction', { params: { path: { form_id: id } } }));
	}

	async function correct() {
		if (
			!form ||
			!confirm(
				`Correct ${form.name}? It stays as it is; a new version of it is made, to be changed and published in its place.`
			)
		)
			return;
		try {
			const made = await body(api.POST('/api/building/forms/{form_id}/correct', { params: { path: { form_id: id } } }));
			await goto(`/tests/${made.ids[0]}`);
		} catch (error) {
			problem = said(error);
		}
	}

	const several = $derived((form?.part_names.length ?? 0) > 1);
	const partName = (at: number) => form?.part_names[at] || `Part ${at + 1}`;
	/** The items part by part, each part in the order it has. */
	function byParts() {
		if (!form) return;
		const order = form.items
			.map((item, at) => ({ item, part: form?.parts[at] ?? 0, at }))
			.toSorted((a, b) => a.part - b.part || a.at - b.at);
		change(
			order.map((o) => o.item),
			order.map((o) => o.part)
		);
	}
	function toPart(at: number, part: number) {
		if (form && part >= 0 && part < form.part_names.length)
			change(
				form.items,
				form.parts.map((p, i) => (i === at ? part : p))
			);
	}
	const sorted = $derived((form?.parts ?? []).every((part, at) => at === 0 || part >= (form?.parts[at - 1] ?? 0)));

	let units = $state<Schemas['UnitStock'][]>([]);
	let unit = $state('');
	let earlier = $state(false);
	$effect(() => {
		if (draft)
			void body(api.GET('/api/building/forms/{form_id}/units', { params: { path: { form_id: id } } })).then(
				(found) => (units = found.filter((u) => u.items))
			);
	});

	/** Everything of a unit of the course, and of the units before it where that is wished. */
	async function fill() {
		if (!form || !unit) return;
		await queue;
		try {
			form = await body(
				api.POST('/api/building/forms/{form_id}/pool', {
					params: { path: { form_id: id } },
					body: { revision: form.revision, unit, earlier }
				})
			);
			saving = 'Saved';
			await look();
		} catch (error) {
			problem = said(error);
		}
	}

	async function swap(at: number) {
		if (swapping === at) return void (swapping = null);
		[swapping, equals] = [at, null];
		const version = form?.items[at]?.version_id;
		if (!version) return;
		try {
			equals = await body(
				api.GET('/api/building/forms/{form_id}/equals/{version_id}', {
					params: { path: { form_id: id, version_id: version } }
				})
			);
		} catch (error) {
			problem = said(error);
		}
	}

	function exchange(at: number, other: Schemas['BankItem']) {
		if (!form) return;
		swapping = null;
		change(
			form.items.map((item, i) => (i === at ? other : item)),
			form.parts
		);
	}

	async function search() {
		const mine = ++asked;
		const usable = `${find} -is:template -state:retired ${standard ? `standard:${standard}` : ''}`;
		const here = `${standard ? '' : `${form?.subject ? ` subject:"${form.subject}"` : ''}${form?.grade ? ` grade:${form.grade}` : ''}`}`;
		const ask = (line: string) => body(api.GET('/api/bank/items', { params: { query: { find: line, limit: 300 } } }));
		let answer = await ask(usable + here);
		// items that were brought in without subject or grade must be found all the same
		if (!answer.total && here) answer = await ask(usable);
		if (mine === asked) bank = answer;
	}

	/** Show the change at once, save in order; what somebody else did meanwhile is shown as it is. */
	function change(items: Schemas['BankItem'][], parts: number[] | null = null) {
		if (!form) return;
		const partOf = new Map(form.items.map((item, at) => [item.version_id, form?.parts[at] ?? 0]));
		form.items = items;
		form.parts = parts ?? items.map((item) => partOf.get(item.version_id) ?? 0);
		saving = 'Saving …';
		const mine = ++changes;
		queue = queue.then(async () => {
			if (!form || mine !== changes) return; // a later change carries this one
			try {
				const saved = await body(
					api.PUT('/api/forms/{form_id}/items', {
						params: { path: { form_id: id } },
						body: { revision: form.revision, items: form.items.map((item) => item.version_id), parts: form.parts }
					})
				);
				if (mine === changes) {
					form = saved;
					await look();
				} else form.revision = saved.revision;
				saving = mine === changes ? 'Saved' : saving;
			} catch (error) {
				problem = said(error);
				saving = '';
				if (error instanceof Problem && error.status === 409)
					form = await body(api.GET('/api/forms/{form_id}', { params: { path: { form_id: id } } }));
			}
		});
	}

	const add = (item: Schemas['BankItem']) => form && change([...form.items, item]);
	const drop = (at: number) => form && change(form.items.filter((_, i) => i !== at));
	function move(from: number, to: number) {
		if (!form || to < 0 || to >= form.items.length || from === to) return;
		const items = [...form.items];
		const [item] = items.splice(from, 1);
		if (item) items.splice(to, 0, item);
		change(items);
	}

	/** Dropped on a row: what comes from the bank takes its place, what was on the form moves there. */
	function dropped(at: number) {
		if (carried && form) {
			const parts = [...form.parts];
			parts.splice(at, 0, form.parts[Math.min(at, form.parts.length - 1)] ?? 0);
			change(form.items.toSpliced(at, 0, carried), parts);
		} else if (dragged !== null) move(dragged, at);
		[carried, dragged, over] = [null, null, -1];
	}

	function keys(event: KeyboardEvent, at: number) {
		if (!draft) return;
		if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
			event.preventDefault();
			const to = at + (event.key === 'ArrowUp' ? -1 : 1);
			move(at, to);
			requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-place="${to}"]`)?.focus());
		}
		if (event.altKey && several && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
			event.preventDefault();
			toPart(at, (form?.parts[at] ?? 0) + (event.key === 'ArrowLeft' ? -1 : 1));
		}
		if (event.key === 'Delete') drop(at);
		if (event.key === 's' && event.target === event.currentTarget) void swap(at);
	}

	/** What is looked through before a form goes out; the server refuses what stops it all the same. */
	async function review() {
		if (checks) return void (checks = null);
		await queue;
		try {
			checks = await body(api.GET('/api/building/forms/{form_id}/checks', { params: { path: { form_id: id } } }));
		} catch (error) {
			problem = said(error);
		}
	}

	async function publish() {
		if (!form) return;
		await queue;
		try {
			form = await body(
				api.POST('/api/forms/{form_id}/publish', {
					params: { path: { form_id: id } },
					body: { revision: form.revision }
				})
			);
			checks = null;
			await touch();
		} catch (error) {
			problem = said(error);
		}
	}
	tellKeys(
		[
			['Alt+↑ ↓', 'move the item'],
			['Alt+← →', 'to another part'],
			['s', 'swap the item for one like it'],
			['Delete', 'take the item out']
		],
		() => draft
	);
</script>

<svelte:head><title>{form?.name ?? 'Form'} · Bildung</title></svelte:head>

{#if form}
	<div class="small mb-1">
		<a class="word" href="/tests">Tests</a> · {[form.subject, form.grade && `grade ${form.grade}`]
			.filter(Boolean)
			.join(', ')}
	</div>
	<div class="mb-3 flex items-start gap-4">
		<h1 class="flex-1">
			{form.name}: {form.items.length}
			{form.items.length === 1 ? 'item' : 'items'}, {form.points}
			{form.points === 1 ? 'point' : 'points'}, {form.standards}
			{form.standards === 1 ? 'standard' : 'standards'}{form.published_at
				? '; published, so it stays as it is.'
				: '; a draft.'}
		</h1>
		<span class="small mt-1.5" role="status">{saving}</span>
		{#if draft}<button
				class="btn primary"
				disabled={!form.items.length}
				aria-expanded={checks !== null}
				onclick={review}>Publish</button
			>
		{:else if form.published_at && staff.may('sessions.plan')}<a class="btn primary" href="/sessions?plan={form.id}"
				>Plan a session</a
			>{/if}
	</div>
	<div class="mb-3 flex flex-wrap items-center gap-x-2 gap-y-1">
		<p class="small min-w-0 flex-1">
			{form.kind ? `${form.kind === 'spot' ? 'spot check' : form.kind}: ` : ''}{form.says.join(
				'; '
			)}{#if form.family_id}; {form.role || 'companion'} of
				<a class="word" href="/tests/families/{form.family_id}">{form.family}</a>{/if}{#if form.mirror_id}; a mirror of <a
					class="word"
					href="/tests/{form.mirror_id}">another test</a
				>{/if}{#if correction?.after_id}; corrected by <a class="word" href="/tests/{correction.after_id}"
					>{correction.after}</a
				>{/if}
		</p>
		{#if draft}<button
				class="btn quiet !min-h-[30px]"
				aria-expanded={panel === 'settings'}
				onclick={() => (panel = panel === 'settings' ? '' : 'settings')}>Settings</button
			>{/if}
		<a class="btn quiet !min-h-[30px]" href="/trial/{form.id}">Try it as a student</a>
		<a class="btn quiet !min-h-[30px]" href="/tests/{form.id}/paper">Paper and files</a>
		{#if staff.may('tests.write')}
			<button
				class="btn quiet !min-h-[30px]"
				aria-expanded={panel === 'companions'}
				disabled={!form.items.length}
				onclick={() => (panel = panel === 'companions' ? '' : 'companions')}>Make a companion</button
			>
			{#if form.published_at && !correction?.after_id}<button class="btn quiet !min-h-[30px]" onclick={correct}
					>Correct it</button
				>{/if}
		{/if}
	</div>
{/if}
<Notice text={problem} onclose={() => (problem = '')} />
{#if form && panel === 'settings' && draft}
	{#key form.revision}<Settings
			{form}
			onkept={(kept) => ([form, panel, saving] = [kept, '', 'Saved'])}
			onleave={() => (panel = '')}
		/>{/key}
{:else if form && panel === 'companions'}
	<Companions {form} onleave={() => (panel = '')} />
{/if}
{#if form && correction?.before_id && correction.says}
	<Correction about={correction} formId={form.id} published={form.published_at !== null} onmoved={touch} />
{/if}
{#if form && checks && draft}
	{@const stops = checks.filter((c) => c.weight === 'stop').length}
	{@const looks = checks.filter((c) => c.weight === 'look').length}
	<section class="sheet mb-3 p-4" aria-label="Before it is published">
		<h2 class="mb-2">
			{stops
				? `${stops === 1 ? 'One thing stops' : `${stops} things stop`} it`
				: looks
					? `Nothing stops it; ${looks === 1 ? 'one thing wants' : `${looks} things want`} a look`
					: 'Nothing stops it'}
		</h2>
		<dl class="grid grid-cols-[18px_150px_1fr] gap-y-1 text-[13.5px]">
			{#each checks as check (check.name)}
				<dt class="contents">
					<span
						aria-hidden="true"
						class={check.weight === 'stop' ? 'text-vermilion' : check.weight === 'look' ? 'text-optB' : 'text-relief2'}
						>{check.weight === 'stop' ? '■' : check.weight === 'look' ? '▲' : '●'}</span
					><span>{check.name}</span>
				</dt>
				<dd class={check.weight === 'fine' ? 'text-ink2' : ''}>{check.says}</dd>
			{/each}
		</dl>
		<div class="mt-3 flex items-center gap-3 border-t border-hair pt-3">
			<p class="small flex-1">From then on {form.name} never changes.</p>
			<button class="btn quiet" onclick={() => (checks = null)}>Not yet</button>
			<button class="btn primary" disabled={stops > 0} onclick={publish}
				>Publish it with {form.items.length} {form.items.length === 1 ? 'item' : 'items'}</button
			>
		</div>
	</section>
{/if}
{#if form}
	<div class="grid items-start gap-3 {draft ? 'grid-cols-2' : 'grid-cols-[minmax(0,1fr)_300px]'}">
		{#if draft}
			<section class="sheet min-w-0" aria-label="Bank">
				<div class="flex gap-2 border-b border-hair p-2">
					<input
						class="input !mt-0"
						data-find
						type="search"
						placeholder="Find in the bank"
						aria-label="Find in the bank"
						bind:value={find}
						oninput={() => search()}
					/>
					<select class="input !mt-0 !w-44" aria-label="Standard" bind:value={standard} onchange={() => search()}>
						<option value="">all standards</option>
						{#each ordered as s (s.code)}<option value={s.code}>{s.code} {s.text} ({s.items})</option>{/each}
					</select>
				</div>
				{#if units.length}
					<details class="border-b border-hair px-2 py-1 text-[13px]">
						<summary class="min-h-[26px] cursor-pointer leading-[26px] text-ink2">Fill from units of the course</summary
						>
						<div class="flex items-center gap-2 pb-1">
							<select class="input !mt-0 min-w-0 flex-1" aria-label="Unit" bind:value={unit}
								><option value="">choose a unit</option>{#each units as u (u.name)}<option value={u.name}
										>{u.name} ({u.items})</option
									>{/each}</select
							><label class="flex items-center gap-1.5 whitespace-nowrap"
								><input type="checkbox" bind:checked={earlier} /> and earlier ones</label
							><button class="btn !min-h-[30px]" disabled={!unit} onclick={fill}>Add all</button>
						</div>
					</details>
				{/if}
				<div {@attach scrollable} class="frozen max-h-[calc(100vh-250px)]">
					<table class="table-fixed">
						<thead
							><tr
								><th>In the bank</th><th class="w-[104px]">Standard</th><th class="n w-[84px]">Got it</th><th
									class="w-[72px]"
								></th></tr
							></thead
						>
						<tbody>
							{#each bank?.items ?? [] as { item, uses } (item.version_id)}
								<tr
									tabindex="-1"
									data-row
									data-bank={item.code}
									draggable={!inForm.has(item.version_id)}
									ondragstart={() => (carried = item)}
									ondragend={() => ([carried, over] = [null, -1])}
									onclick={() => (open = open === item.version_id ? null : item.version_id)}
								>
									<td class="truncate"><code class="mr-1 text-ink2">{item.code}</code> {plain(item.shown.body)}</td>
									<td><StandardCode code={item.standards[0] ?? ''} /></td>
									<td
										class="n {uses[0] ? '' : 'text-ink2'}"
										title={uses[0]
											? `${uses[0].form}, ${uses[0].window}; separates ${short(uses[0].r_rest)}`
											: 'never sat'}>{uses[0] ? percent(uses[0].p) : 'never sat'}</td
									>
									<td class="n">
										{#if inForm.has(item.version_id)}<span class="small">in it</span>
										{:else}<button
												class="btn !min-h-[26px]"
												aria-label="Add {item.code}"
												onclick={(e) => (e.stopPropagation(), add(item))}>Add</button
											>{/if}
									</td>
								</tr>
								{#if open === item.version_id}<tr><td colspan="4" class="!bg-paper !p-4"><ItemCard {item} /></td></tr
									>{/if}
							{:else}<tr><td colspan="4" class="text-ink2">Nothing fits. Bring items in at the Bank.</td></tr>{/each}
						</tbody>
					</table>
				</div>
			</section>
		{/if}
		<section class="sheet min-w-0" aria-label="The form">
			{#if draft && form.coverage.length}
				<div class="flex flex-wrap gap-x-4 gap-y-1 border-b border-hair px-3 py-2">
					{#each form.coverage as { name: code, value: n } (code)}
						<span class="flex items-center gap-1.5 text-[12.5px]" title={texts.get(code)}
							><code>{code}</code><span class="h-2.5 bg-relief3" style:width="{(Number(n) / most) * 36}px"
							></span>{n}</span
						>
					{/each}
				</div>
			{/if}
			{#if outlook && form.items.length}
				<div class="border-b border-hair p-3" aria-label="Outlook" role="group">
					<p class="mb-2 text-[13.5px]">{outlook.finding}</p>
					{#if !form.settings.draw}<ScoreOutlook predicted={outlook.predicted} />{/if}
					{#if outlook.held.length}
						<details class="mt-2 text-[12.5px]" open={outlook.held.some((h) => h.says)}>
							<summary>The blueprint, row by row</summary>
							<div
								class="mt-1 grid max-h-44 grid-cols-[minmax(0,1fr)_70px_auto] items-center gap-x-3 overflow-auto"
								{@attach scrollable}
							>
								{#each outlook.held as h, at (at)}
									<span class="truncate" title={texts.get(h.name)}>{h.name}</span>
									<span class="relative block h-2.5 bg-hair2"
										><span
											class="absolute inset-y-0 left-0 {h.says ? 'bg-relief2' : 'bg-relief3'}"
											style:width="{Math.min(100, (100 * h.have) / Math.max(1, h.high))}%"
										></span></span
									>
									<span class={h.says ? 'font-semibold' : 'text-ink2'}
										>{h.have} of {h.low === h.high ? h.low : `${h.low} to ${h.high}`} {h.count}</span
									>
								{/each}
							</div>
						</details>
					{/if}
				</div>
			{/if}
			<!-- svelte-ignore a11y_no_static_element_interactions (dropping is also done by Add and by keys) -->
			<div
				{@attach scrollable}
				class="frozen max-h-[calc(100vh-190px)]"
				ondragover={(e) => carried && e.preventDefault()}
				ondrop={() => carried && dropped(form?.items.length ?? 0)}
			>
				<table class="table-fixed">
					<thead
						><tr
							><th class="n w-[44px]">No.</th><th
								>{draft
									? several
										? 'On the form (drag; Alt with arrows up and down, left and right for parts)'
										: 'On the form (drag, or Alt and arrows)'
									: 'On the form'}</th
							><th class="w-[104px]">Standard</th>{#if draft}<th class="w-[148px]"></th>{/if}</tr
						></thead
					>
					<tbody>
						{#each form.items as item, at (item.version_id)}
							{#if several && (at === 0 || form.parts[at] !== form.parts[at - 1])}
								<tr
									><th colspan="4" class="!h-8 !bg-paper text-left !text-[12.5px]"
										>{partName(form.parts[at] ?? 0)}{#if draft && !sorted && at === 0}<button
												class="btn quiet !min-h-[24px] float-right"
												onclick={byParts}>Sort by parts</button
											>{/if}</th
									></tr
								>
							{/if}
							<tr
								tabindex="0"
								data-row
								data-place={at}
								draggable={draft}
								class:opacity-40={dragged === at}
								class:dropmark={over === at && (carried !== null || dragged !== null)}
								ondragstart={() => (dragged = at)}
								ondragover={(e) => (e.preventDefault(), (over = at))}
								ondrop={(e) => (e.stopPropagation(), dropped(at))}
								ondragend={() => ([dragged, over] = [null, -1])}
								onkeydown={(e) => keys(e, at)}
								onclick={() => (open = open === `f${item.version_id}` ? null : `f${item.version_id}`)}
							>
								<td class="n">{at + 1}</td>
								<td class="truncate"><code class="mr-1 text-ink2">{item.code}</code> {plain(item.shown.body)}</td>
								<td><StandardCode code={item.standards[0] ?? ''} /></td>
								{#if draft}<td class="n whitespace-nowrap"
										><button
											class="btn quiet !min-h-[26px]"
											aria-label="Swap {item.code}"
											title="the nearest items (s)"
											aria-expanded={swapping === at}
											onclick={(e) => (e.stopPropagation(), swap(at))}>Swap</button
										><button
											class="btn quiet !min-h-[26px]"
											aria-label="Take {item.code} out"
											onclick={(e) => (e.stopPropagation(), drop(at))}>Take out</button
										></td
									>{/if}
							</tr>
							{#if swapping === at}
								<tr
									><td colspan="4" class="!bg-paper !p-3">
										{#if equals === null}<span class="small">Looking …</span>
										{:else}
											{#each equals as equal, n (equal.item.version_id)}
												<div class="flex items-center gap-2 border-b border-hair2 py-1 text-[12.5px]">
													<!-- svelte-ignore a11y_autofocus -->
													<button
														class="btn !min-h-[26px]"
														autofocus={n === 0}
														onclick={(e) => (e.stopPropagation(), exchange(at, equal.item))}>Take</button
													>
													<code class="text-ink2">{equal.item.code}</code>
													<span class="min-w-0 flex-1 truncate">{plain(equal.item.shown.body)}</span>
													<span class="text-ink2">{equal.differs}</span>
												</div>
											{:else}<span class="small">The bank has no other item of these standards.</span>{/each}
										{/if}
									</td></tr
								>
							{/if}
							{#if open === `f${item.version_id}`}<tr
									><td colspan="4" class="!bg-paper !p-4"><ItemCard {item} /></td></tr
								>{/if}
						{:else}<tr
								><td colspan="4" class="!py-6 text-ink2"
									>Nothing on it yet. Add items from the bank at the left, or drag them here.</td
								></tr
							>{/each}
					</tbody>
				</table>
			</div>
		</section>
		{#if !draft}
			<section class="sheet p-3" aria-label="Coverage">
				<div class="small mb-2">Items by main standard</div>
				{#each form.coverage as { name: code, value: n } (code)}
					<div class="mb-2 text-[12.5px]">
						<div class="flex items-center gap-2">
							<code class="w-[74px]">{code}</code><span
								class="h-3 bg-relief3"
								style:width="{(Number(n) / most) * 110}px"
							></span>{n}
						</div>
						<div class="text-ink2">{texts.get(code) ?? ''}</div>
					</div>
				{/each}
			</section>
		{/if}
	</div>
{/if}
