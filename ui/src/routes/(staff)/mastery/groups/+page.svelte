<script lang="ts">
	import { goto } from '$app/navigation';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { percent } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** Groups from findings: students by a standard that they need, as many needs met as there are seats. */
	let { data }: PageProps = $props();
	const found = $derived(data.found);
	const everybody = $derived(
		[...(found?.groups.flatMap((g) => g.people) ?? []), ...(found?.unmet ?? []), ...(found?.without ?? [])].sort(
			(a, b) => staff.name(a.name, a.alias).localeCompare(staff.name(b.name, b.alias))
		)
	);
	const named = $derived(new Map(everybody.map((p) => [p.person, staff.name(p.name, p.alias)])));
	const choices = $derived(everybody.map((p) => ({ value: p.person, label: staff.name(p.name, p.alias) })));
	const sizes = (from: number, to: number) =>
		Array.from({ length: to - from + 1 }, (_, at) => ({ value: from + at, label: String(from + at) }));
	const to = (person: string) => `/mastery/${person}?subject=${encodeURIComponent(found?.subject ?? '')}`;
	let one = $state('');
	let other = $state('');

	function go(change: Partial<typeof data.asked>) {
		const asked = { ...data.asked, ...change };
		const query = new URLSearchParams({
			klass: data.klass,
			least: String(asked.least),
			most: String(asked.most),
			many: String(asked.many)
		});
		for (const pair of asked.apart) query.append('apart', pair);
		void goto(`/mastery/groups?${query}`, { noScroll: true, keepFocus: true });
	}
	function part() {
		go({ apart: [...data.asked.apart, `${one},${other}`] });
		[one, other] = ['', ''];
	}
</script>

<div class="small mb-1"><a class="word" href="/mastery?klass={data.klass}">{found?.klass ?? 'Mastery'}</a></div>
<Notice text={data.problem} />
<div class="mb-3 flex flex-wrap items-start gap-2">
	<Finding of="Groups from needs" station="Mastery" beside={found?.klass ?? ''} class="max-w-[860px] flex-1" live
		>{found?.finding ?? ''}</Finding
	>
</div>
<div class="mb-3 flex flex-wrap items-end gap-3">
	<label class="field"
		>Smallest<Select value={data.asked.least} choices={sizes(1, 12)} onchange={(least) => go({ least })} /></label
	>
	<label class="field"
		>Largest<Select value={data.asked.most} choices={sizes(1, 20)} onchange={(most) => go({ most })} /></label
	>
	<label class="field"
		>Groups, at most<Select value={data.asked.many} choices={sizes(1, 12)} onchange={(many) => go({ many })} /></label
	>
	<label class="field min-w-[170px]">Keep apart<Select bind:value={one} {choices} placeholder="one student" /></label>
	<label class="field min-w-[170px]"
		>from<Select
			bind:value={other}
			choices={choices.filter((c) => c.value !== one)}
			placeholder="another student"
		/></label
	>
	<Button onclick={part} disabled={!one || !other}>Keep apart</Button>
</div>
{#if data.asked.apart.length}
	<ul class="mb-3 flex flex-wrap gap-2 text-[13.5px]" aria-label="Kept apart">
		{#each data.asked.apart as pair (pair)}
			{@const [a = '', b = ''] = pair.split(',')}
			<li class="flex items-center gap-2 rounded-[3px] border border-hair bg-sheet px-2 py-0.5">
				{named.get(a) ?? 'someone'} and {named.get(b) ?? 'someone'}
				<Button
					class="min-h-[24px]"
					aria-label="Let {named.get(a) ?? 'them'} and {named.get(b) ?? 'them'} be together"
					onclick={() => go({ apart: data.asked.apart.filter((p) => p !== pair) })}>Undo</Button
				>
			</li>
		{/each}
	</ul>
{/if}
{#if found}
	<div class="grid gap-3 md:grid-cols-2 xl:grid-cols-3">
		{#each found.groups as g (g.standard)}
			<Panel label="Group for {g.code}" class="px-4 py-3">
				<h2 class="text-[15px]">
					<a class="word" href="/mastery/standards/{g.standard}?klass={data.klass}">{g.code}</a>
				</h2>
				<p class="small mb-1">{g.text}</p>
				<ul class="text-[14px]">
					{#each g.people as p (p.person)}<li
							class="flex items-center gap-2 border-b border-hair2 py-0.5 last:border-0"
						>
							<a class="word flex-1" href={to(p.person)}>{staff.name(p.name, p.alias)}</a>
							<span class="h-[7px] w-[60px] rounded-[2px] bg-wash" aria-hidden="true"
								><i class="block h-full rounded-[2px] bg-relief2" style="width: {p.need * 100}%"></i></span
							>
							<span class="small w-[58px] text-right">{p.need > 0.99 ? 'over 99%' : percent(p.need)}</span>
						</li>{/each}
				</ul>
				<div class="mt-2"><MakeGroup people={g.people.map((p) => p.person)} name="Needs {g.code}" /></div>
			</Panel>
		{/each}
	</div>
	<p class="small mt-2">The share beside a name: probability of being below the line on that standard.</p>
	{#each [{ head: 'A need, and no seat', people: found.unmet, why: 'Allow more or larger groups.' }, { head: 'No need that could be judged', people: found.without, why: 'They are above the line, or the evidence is too little.' }] as rest (rest.head)}
		{#if rest.people.length}
			<h2 class="mt-4 text-[15px]">{rest.head}</h2>
			<p class="text-[14px]">
				{#each rest.people as p, at (p.person)}{at ? ', ' : ''}<a class="word whitespace-nowrap" href={to(p.person)}
						>{staff.name(p.name, p.alias)}</a
					>{/each}. <span class="small">{rest.why}</span>
			</p>
		{/if}
	{/each}
{/if}
