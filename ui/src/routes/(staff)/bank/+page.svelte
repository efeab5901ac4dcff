<script lang="ts">
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import ItemHistory from '$lib/parts/ItemHistory.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardTree from '$lib/parts/StandardTree.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { plain } from '$lib/words/plain';
	import { percent, reliefColor, short } from '$lib/words/show';

	let overview = $state<Schemas['BankOverview'] | null>(null);
	let found = $state<Schemas['BankOut'] | null>(null);
	let problem = $state('');
	let importing = $state(false);
	let asked = 0;
	const monthOf = (iso: string) => new Date(iso).toLocaleDateString('en-GB', { month: 'short', year: '2-digit' });
	const ORDERS = [['code', 'by code'], ['p', 'hardest first'], ['r_rest', 'least separating first'], ['last', 'sat longest ago first'], ['unused', 'never sat first']] as const;

	const query = $derived(page.url.searchParams);
	const chosen = $derived(found?.items.find((item) => item.code === query.get('item')) ?? found?.items[0] ?? null);
	const texts = $derived(new Map((overview?.standards ?? []).map((s) => [s.code, s.text])));

	onMount(load);
	async function load() {
		try {
			overview = await body(api.GET('/api/bank/overview'));
			importing = importing || (overview.standards.every((s) => s.items === 0) && staff.may('bank.write'));
			await search();
		} catch (error) {
			problem = said(error);
		}
	}

	async function search() {
		const mine = ++asked;
		const get = (name: string) => page.url.searchParams.get(name) ?? '';
		const answer = await body(
			api.GET('/api/bank/items', {
				params: { query: { find: get('find'), standard: get('standard'), subject: get('subject'), grade: get('grade'), order: get('order') || 'code', limit: 500 } }
			})
		);
		if (mine === asked) found = answer;
	}

	async function set(name: string, value: string, again = true) {
		const url = new URL(page.url);
		if (value) url.searchParams.set(name, value);
		else url.searchParams.delete(name);
		if (again) url.searchParams.delete('item');
		await goto(url, { replaceState: true, keepFocus: true, noScroll: true });
		if (again) await search().catch((error) => (problem = said(error)));
	}
</script>

<svelte:head><title>Bank · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-4">
	<h1 class="flex-1">{overview?.finding ?? ''}</h1>
	<a class="btn" href="/bank/health">What it lacks</a>
	<a class="btn" href="/bank/frameworks">Frameworks</a>
	{#if staff.may('bank.write')}
		<button class="btn" aria-expanded={importing} onclick={() => (importing = !importing)}>Bring in items</button>
	{/if}
</div>
<Notice text={problem} />
{#if importing}
	<div class="mb-3">
		<ImportPanel
			kind="bank"
			accept=".zip,.csv"
			hint="A CSV (code, type, stem, option_A to option_J, key, points, standards; stems may hold simple HTML and MathML) or a QTI 3.0 package of simple choice items."
			sample={[
				{ href: '/samples/items.csv', text: 'twelve items as CSV' },
				{ href: '/samples/items-qti.zip', text: 'eight as a QTI package' }
			]}
			onapplied={load}
		/>
	</div>
{/if}
{#if overview && overview.standards.length}
	<div class="grid grid-cols-[218px_minmax(0,1fr)_minmax(0,320px)] items-start gap-3">
		<section {@attach scrollable} class="sheet frozen max-h-[calc(100vh-130px)]" aria-label="Standards">
			<StandardTree standards={overview.standards} chosen={query.get('standard') ?? ''} onchoose={(code) => set('standard', code)} />
		</section>
		<section class="sheet min-w-0">
			<div class="flex flex-wrap gap-2 border-b border-hair p-2">
				<input class="input !mt-0 basis-full" data-find type="search" placeholder="Find in code and text" aria-label="Find in code and text" value={query.get('find') ?? ''} oninput={(e) => set('find', e.currentTarget.value)} />
				<select class="input !mt-0 !w-auto" aria-label="Subject" value={query.get('subject') ?? ''} onchange={(e) => set('subject', e.currentTarget.value)}>
					<option value="">all subjects</option>
					{#each overview.subjects as subject (subject)}<option>{subject}</option>{/each}
				</select>
				<select class="input !mt-0 !w-auto" aria-label="Grade" value={query.get('grade') ?? ''} onchange={(e) => set('grade', e.currentTarget.value)}>
					<option value="">all grades</option>
					{#each overview.grades as grade (grade)}<option value={grade}>grade {grade}</option>{/each}
				</select>
				<select class="input !mt-0 !w-auto" aria-label="Order by" value={query.get('order') ?? 'code'} onchange={(e) => set('order', e.currentTarget.value === 'code' ? '' : e.currentTarget.value)}>
					{#each ORDERS as [value, word] (value)}<option {value}>{word}</option>{/each}
				</select>
			</div>
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-275px)]">
				<table class="table-fixed">
					<thead><tr><th class="w-[66px]">Code</th><th>Text</th><th class="w-[92px]">Standard</th><th class="w-[70px]">Last sat</th><th class="n w-[72px]">Got it</th><th class="n w-[80px]">Separates</th></tr></thead>
					<tbody>
						{#each found?.items ?? [] as item (item.code)}
							{@const use = item.uses[0]}
							<tr tabindex="-1" data-row class:chosen={item.code === chosen?.code} onclick={() => set('item', item.code, false)}>
								<td><code>{item.code}</code></td>
								<td class="truncate">{plain(item.stem)}</td>
								<td><StandardCode code={item.standards[0] ?? ''} /></td>
								<td class="whitespace-nowrap">{use ? monthOf(use.at) : 'never'}</td>
								<td class="n whitespace-nowrap">{#if use}<span class="mr-1 inline-block size-2.5 rounded-full border border-ink2 align-middle" style:background={reliefColor(use.p)}></span>{percent(use.p)}{/if}</td>
								<td class="n">{#if use?.flags.some((f) => f.weight === 'problem')}<span class="notch">{short(use.r_rest)}</span>{:else if use}{short(use.r_rest)}{/if}</td>
							</tr>
						{:else}
							<tr><td colspan="6" class="text-ink2">No item fits these filters.</td></tr>
						{/each}
					</tbody>
				</table>
			</div>
			<p class="small border-t border-hair p-2">{found ? (found.total > found.items.length ? `The first ${found.items.length} of ${found.total}; find narrows it.` : `${found.total} items`) : ''}</p>
		</section>
		{#if chosen}
			<section class="sheet p-4" aria-label="The chosen item">
				<div class="small mb-2"><code>{chosen.code}</code> · version {chosen.number} · {chosen.points} {chosen.points === 1 ? 'point' : 'points'}</div>
				<ItemCard item={chosen} />
				<ItemHistory uses={chosen.uses} version={chosen.number} />
				<div class="mt-3 border-t border-hair pt-2">
					{#each chosen.standards as code, at (code)}
						<p class="small"><code>{code}</code> {texts.get(code) || 'no text yet'}{at ? ' (also touches)' : ''}</p>
					{/each}
				</div>
			</section>
		{/if}
	</div>
{/if}
