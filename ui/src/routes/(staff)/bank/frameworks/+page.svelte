<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';

	/** A framework as a tree: what each standard has of items, what families read, its counterpart elsewhere. */
	let data = $state<Schemas['FrameworkPage'] | null>(null);
	let none = $state(false);
	let problem = $state('');
	let bringing = $state(false);
	let title = $state('');
	let find = $state('');
	let editing = $state('');
	let plain = $state('');
	let asked = 0;
	const most = $derived(Math.max(1, ...(data?.rows ?? []).map((r) => r.items)));
	const RELATIONS: Record<string, string> = {
		exactMatchOf: 'same as',
		replacedBy: 'replaced by',
		isPartOf: 'part of',
		isRelatedTo: 'related to',
		precedes: 'before',
		'exactMatchOf (from there)': 'same as',
		'replacedBy (from there)': 'replaces',
		'isPartOf (from there)': 'holds',
		'isRelatedTo (from there)': 'related to',
		'precedes (from there)': 'after'
	};
	/** Rows that fit, each with the headings above it. */
	const shown = $derived.by(() => {
		const rows = data?.rows ?? [];
		const words = find.toLowerCase().split(/\s+/).filter(Boolean);
		if (!words.length) return rows;
		const keep = rows.map((r) => words.every((w) => `${r.code} ${r.text} ${r.plain}`.toLowerCase().includes(w)));
		let under: boolean[] = [];
		for (let at = rows.length - 1; at >= 0; at--) {
			const depth = rows[at]!.depth;
			if (under[depth + 1]) keep[at] = true;
			under = [...under.slice(0, depth), (under[depth] ?? false) || keep[at]!];
		}
		return rows.filter((_, at) => keep[at]);
	});
	const span = (r: Schemas['StandardRow']) =>
		r.grade_to && r.grade_to !== r.grade ? `${r.grade} to ${r.grade_to}` : r.grade;

	onMount(load);
	async function load() {
		const mine = ++asked;
		const framework = page.url.searchParams.get('framework') ?? undefined;
		try {
			const answer = await body(api.GET('/api/frameworks', { params: { query: { framework } } }));
			if (mine !== asked) return;
			data = answer;
			none = answer === null;
			bringing = bringing || (none && staff.may('frameworks.write'));
		} catch (error) {
			problem = said(error);
		}
	}
	async function change(r: Schemas['StandardRow'], values: { plain?: string; priority?: boolean }) {
		problem = '';
		try {
			await api.PUT('/api/standards/{standard_id}', {
				params: { path: { standard_id: r.id } },
				body: { plain: values.plain ?? r.plain, priority: values.priority ?? r.priority }
			});
			editing = '';
			await load();
			await staff.loadTexts();
		} catch (error) {
			problem = said(error);
		}
	}
	async function main() {
		try {
			await api.PUT('/api/frameworks/{framework_id}/main', {
				params: { path: { framework_id: data?.framework.id ?? '' } }
			});
			await load();
			await staff.loadTexts();
		} catch (error) {
			problem = said(error);
		}
	}
	const applied = () => void load().then(() => staff.loadTexts());
</script>

<svelte:head><title>Frameworks · Bildung</title></svelte:head>

<div class="small mb-1"><a class="word" href="/bank">Bank</a> · Frameworks</div>
<div class="mb-3 flex flex-wrap items-start gap-3">
	<h1 class="min-w-[320px] flex-1">
		{data?.finding ?? (none ? 'No framework yet. Bring one in as CASE or as a sheet.' : '')}
	</h1>
	{#if data && data.frameworks.length > 1}
		<select
			class="input !mt-0 !w-auto max-w-[300px]"
			aria-label="Framework"
			value={data.framework.id}
			onchange={(e) => goto(`?framework=${e.currentTarget.value}`, { keepFocus: true }).then(load)}
		>
			{#each data.frameworks as f (f.id)}<option value={f.id}>{f.title} {f.version}{f.main ? ' (main)' : ''}</option
				>{/each}
		</select>
	{/if}
	{#if staff.may('frameworks.write')}<button class="btn" aria-expanded={bringing} onclick={() => (bringing = !bringing)}
			>Bring in a framework</button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if bringing}
	<div class="mb-3">
		<label class="field mb-2 w-80">Title, for a sheet<input class="input" bind:value={title} /></label>
		<ImportPanel
			kind="frameworks"
			{title}
			accept=".json,.csv,.xlsx"
			hint="A CASE 1.0 or 1.1 package (JSON), or a sheet with the columns code and text, and if you have them parent, plain, kind, subject, grade, grade_to, priority. Items stay with a standard whose text or place changes."
			onapplied={applied}
		/>
	</div>
{/if}
{#if data}
	<section class="sheet" aria-label="Standards">
		<div class="flex flex-wrap items-center gap-2 border-b border-hair p-2">
			<input
				class="input !mt-0 min-w-0 flex-1"
				data-find
				type="search"
				placeholder="Find in code, text and family sentence"
				aria-label="Find in code, text and family sentence"
				bind:value={find}
			/>
			{#if data.may_change && !data.framework.main}<Ask
					label="Make it the main one"
					question="From then on codes mean {data.framework.title} {data.framework
						.version} where an item or lesson names a code only."
					yes="Make it the main one"
					onyes={main}
				/>{/if}
			<span class="small">Take it as</span>
			{#each [['case1.1', 'CASE 1.1'], ['case1.0', 'CASE 1.0'], ['csv', 'CSV']] as [kind, word] (kind)}<a
					class="btn"
					href="/api/frameworks/{data.framework.id}/export?kind={kind}"
					download>{word}</a
				>{/each}
		</div>
		<div {@attach scrollable} class="frozen max-h-[calc(100vh-260px)]">
			<table>
				<thead
					><tr><th>Standard</th><th>What families read</th><th>Grades</th><th>Items</th><th>Elsewhere</th></tr></thead
				>
				<tbody>
					{#each shown as r (r.id)}
						{#if !r.leaf}
							<tr
								><th
									colspan="5"
									scope="colgroup"
									class="!bg-paper !font-semibold !text-ink"
									style:padding-left="{8 + r.depth * 18}px"
									>{r.text} <code class="ml-1 !font-normal text-ink2">{r.code}</code></th
								></tr
							>
						{:else}
							<tr>
								<td style:padding-left="{8 + r.depth * 18}px">
									<span class="flex items-start gap-2">
										{#if data.may_change}<button
												class="mt-0.5 size-6 flex-none cursor-pointer"
												aria-pressed={r.priority}
												title="{r.priority ? 'A priority' : 'No priority'}; click to change"
												aria-label="{r.code} is a priority"
												onclick={() => change(r, { priority: !r.priority })}
												><span
													class="mx-auto block size-3 rotate-45 {r.priority ? 'bg-petrol' : 'border border-relief3'}"
												></span></button
											>
										{:else if r.priority}<span
												class="mt-1.5 block size-3 flex-none rotate-45 bg-petrol"
												role="img"
												aria-label="a priority"
											></span>{/if}
										<span class="py-1"><code class="whitespace-nowrap">{r.code}</code> {r.text}</span>
									</span>
								</td>
								<td class="min-w-[190px]">
									{#if editing === r.id}
										<form class="flex gap-1 py-1" onsubmit={(e) => (e.preventDefault(), void change(r, { plain }))}>
											<!-- svelte-ignore a11y_autofocus (opened by a click on this very sentence) -->
											<input
												class="input !mt-0"
												aria-label="What families read for {r.code}"
												bind:value={plain}
												maxlength="300"
												autofocus
												onkeydown={(e) => e.key === 'Escape' && (editing = '')}
											/><button class="btn primary">Keep</button>
										</form>
									{:else if data.may_change}<button
											class="min-h-6 text-left {r.plain ? 'word' : 'text-ink2 underline decoration-dotted'}"
											onclick={() => ((editing = r.id), (plain = r.plain))}>{r.plain || 'write it'}</button
										>
									{:else}{r.plain}{/if}
								</td>
								<td class="whitespace-nowrap">{span(r)}</td>
								<td
									><span class="flex items-center gap-1.5"
										><span class="block h-3 bg-relief2" style:width="{(r.items / most) * 60}px"></span>{#if r.items}<a
												class="word"
												href="/bank?find=standard:{encodeURIComponent(r.code)}">{r.items}</a
											>{:else}<span class={r.priority ? 'notch' : 'text-ink2'}>none</span>{/if}</span
									></td
								>
								<td class="text-[12.5px]"
									>{#each r.linked as l (l.relation + l.code)}<div class="whitespace-nowrap" title={l.framework}>
											{RELATIONS[l.relation] ?? l.relation} <code>{l.code}</code>
										</div>{/each}</td
								>
							</tr>
						{/if}
					{:else}<tr><td colspan="5" class="text-ink2">No standard fits.</td></tr>{/each}
				</tbody>
			</table>
		</div>
		<p class="small border-t border-hair p-2">
			A filled diamond marks a priority. Elsewhere names the counterpart in other frameworks and versions.
		</p>
	</section>
{/if}
