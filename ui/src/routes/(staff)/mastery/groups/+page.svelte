<script lang="ts">
	import { goto } from '$app/navigation';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import Board from './Board.svelte';
	import type { PageProps } from './$types';

	/** Groups from findings: students by a standard that they need, by an error they share, or by their state on one standard. */
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
	let one = $state('');
	let other = $state('');

	function go(change: Partial<typeof data.asked>) {
		const asked = { ...data.asked, ...change };
		const query = new URLSearchParams({ klass: data.klass });
		for (const [name, value] of Object.entries(asked))
			for (const some of [value].flat()) if (some) query.append(name, String(some));
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
	<Button class="ml-auto" href="/mastery/working">Groups at work</Button>
</div>
<div class="mb-3 flex flex-wrap items-end gap-3">
	<div>
		<ToggleGroup
			label="Groups by"
			value={data.asked.by}
			onchange={(by) => go({ by })}
			choices={[
				{ value: 'need', label: 'By need' },
				{ value: 'error', label: 'By shared error' },
				{ value: 'state', label: 'By state' }
			]}
		/>
	</div>
	{#if data.asked.by === 'state' && found}<label class="field min-w-[130px]"
			>Standard<Select
				value={found.standard ?? ''}
				choices={found.standards.map((s) => ({ value: s.id, label: s.code, more: s.text }))}
				onchange={(standard) => go({ standard })}
			/></label
		>{/if}
	{#if data.asked.by === 'error' && found}<label class="field min-w-[180px]"
			>Test<Select
				value={`${found.form ?? ''} ${found.window ?? ''}`}
				choices={found.tests.map((s) => ({ value: `${s.form} ${s.window}`, label: s.label }))}
				onchange={(to) => go({ form: to.split(' ')[0] ?? '', window: to.split(' ')[1] ?? '' })}
			/></label
		>{/if}
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
{#if found}{#key found}<Board {found} klass={data.klass} />{/key}{/if}
