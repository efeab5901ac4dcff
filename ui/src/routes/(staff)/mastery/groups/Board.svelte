<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { percent } from '$lib/words/show';
	import Keep from './Keep.svelte';

	/** The proposed groups, adjusted by dragging a student or by the list beside each, before they are kept. */
	let { found, klass }: { found: Schemas['NeedGroups']; klass: string } = $props();
	type Person = Schemas['GroupPerson'];
	// svelte-ignore state_referenced_locally
	let groups = $state(found.groups.map((g) => [...g.people]));
	// svelte-ignore state_referenced_locally
	let unmet = $state([...found.unmet]);
	// svelte-ignore state_referenced_locally
	let without = $state([...found.without]);
	let dragged = $state<string | null>(null);
	let told = $state('');
	const OUT = -1;
	const places = $derived([
		...found.groups.map((g, at) => ({ value: at, label: String(at + 1), more: g.head.slice(0, 60) })),
		{ value: OUT, label: '–', more: 'no group' }
	]);

	function move(person: string, to: number) {
		let one: Person | undefined;
		for (const list of [...groups, unmet, without]) one ??= list.find((p) => p.person === person);
		if (!one) return;
		groups = groups.map((list) => list.filter((p) => p.person !== person));
		unmet = unmet.filter((p) => p.person !== person);
		without = without.filter((p) => p.person !== person);
		if (to === OUT) unmet.push(one);
		else groups[to]?.push(one);
		told = `${staff.name(one.name, one.alias)} is in ${to === OUT ? 'no group' : `group ${to + 1}`} now.`;
	}
	function drop(event: DragEvent, to: number) {
		event.preventDefault();
		if (dragged) move(dragged, to);
		dragged = null;
	}
	const to = (person: string) => `/mastery/${person}?subject=${encodeURIComponent(found.subject)}`;
	const worth = (p: Person) =>
		found.by === 'need' ? (p.need > 0.99 ? 'over 99%' : p.need ? percent(p.need) : 'moved') : p.says || 'moved';
	const rests = $derived([
		{
			head: found.by === 'error' ? 'An error, and no seat' : 'A need, and no seat',
			people: unmet,
			why: 'Allow more or larger groups.'
		},
		{
			head:
				found.by === 'error'
					? 'No such error'
					: found.by === 'state'
						? 'Too little evidence'
						: 'No need that could be judged',
			people: without,
			why:
				found.by === 'error'
					? 'They did not give these answers often enough to call it an error of theirs.'
					: found.by === 'state'
						? 'Of them it cannot be told yet.'
						: 'They are above the line, or the evidence is too little, or it was not taught yet.'
		}
	]);
</script>

<p class="sr-only" role="status">{told}</p>
<div class="grid gap-3 md:grid-cols-2 xl:grid-cols-3">
	{#each found.groups as g, at (at)}
		<Panel label="Group for {g.head}" class="px-4 py-3">
			<div
				role="group"
				aria-label="Students of group {at + 1}"
				ondragover={(e) => e.preventDefault()}
				ondrop={(e) => drop(e, at)}
			>
				<h2 class="text-[15px]">
					<span class="small mr-1">{at + 1}</span>{#if g.standard}<a
							class="word"
							href="/mastery/standards/{g.standard}?klass={klass}">{g.head}</a
						>{:else}{g.head}{/if}
				</h2>
				<p class="small mb-1">{g.text}</p>
				<ul class="text-[14px]">
					{#each groups[at] ?? [] as p (p.person)}<li
							class="flex items-center gap-2 border-b border-hair2 py-0.5 last:border-0"
							draggable="true"
							ondragstart={() => (dragged = p.person)}
						>
							<span class="cursor-grab text-[12px] text-ink2" aria-hidden="true">⠿</span>
							<a class="word flex-1" href={to(p.person)}>{staff.name(p.name, p.alias)}</a>
							{#if found.by === 'need'}<span class="h-[7px] w-[44px] rounded-[2px] bg-wash" aria-hidden="true"
									><i class="block h-full rounded-[2px] bg-relief2" style="width: {p.need * 100}%"></i></span
								>{/if}
							<span class="small min-w-[58px] text-right">{worth(p)}</span>
							<Select
								small
								label="Group of {staff.name(p.name, p.alias)}"
								value={at}
								choices={places}
								onchange={(place) => move(p.person, place)}
								class="w-[52px]"
							/>
						</li>{:else}<li class="small py-1">No one; drag students here.</li>{/each}
				</ul>
				<div class="mt-2">
					{#if g.standard && found.may_keep}<Keep
							people={(groups[at] ?? []).map((p) => p.person)}
							standard={g.standard}
							name="Needs {g.head}"
						/>{:else}<MakeGroup people={(groups[at] ?? []).map((p) => p.person)} name={`Needs ${g.head}`} />{/if}
				</div>
			</div>
		</Panel>
	{/each}
</div>
{#if found.by === 'need' && found.groups.length}<p class="small mt-2">
		The share beside a name: probability of being below the line on that standard.
	</p>{/if}
{#each rests as rest (rest.head)}
	{#if rest.people.length}
		<h2 class="mt-4 text-[15px]">{rest.head}</h2>
		<ul class="flex flex-wrap items-center gap-x-3 gap-y-1 text-[14px]">
			{#each rest.people as p (p.person)}<li
					class="flex items-center gap-1"
					draggable="true"
					ondragstart={() => (dragged = p.person)}
				>
					<a class="word whitespace-nowrap" href={to(p.person)}>{staff.name(p.name, p.alias)}</a>
					{#if found.groups.length}<Select
							small
							label="Group of {staff.name(p.name, p.alias)}"
							value={OUT}
							choices={places}
							onchange={(place) => move(p.person, place)}
							class="w-[52px]"
						/>{/if}
				</li>{/each}
		</ul>
		<p class="small">{rest.why}</p>
	{/if}
{/each}
