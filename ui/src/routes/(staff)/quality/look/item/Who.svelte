<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import Student from '$lib/parts/Student.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import { address } from '../address.svelte';

	/** Who gave each answer, every single one; straight to a group, or to looking at these students alone. */
	let { code, notes }: { code: string; notes: Record<string, string> } = $props();
	let given = $state<Schemas['Given'][] | null>(null);
	let problem = $state('');
	let mine = 0;
	const who = $derived(address.get('who'));

	$effect(() => {
		const item = code;
		const me = ++mine;
		if (!who) return;
		body(api.GET('/api/quality/answers', { params: { query: { ...address.scope, item } } }))
			.then((answer) => {
				if (me === mine) [given, problem] = [answer, ''];
			})
			.catch((error) => {
				if (me === mine) problem = said(error);
			});
	});

	const alias = $derived(new Map((given ?? []).map((g, at) => [g.sitting, at])));
	const groups = $derived.by(() => {
		const map = new Map<string, Schemas['Given'][]>();
		for (const g of given ?? [])
			if (g.state === 'handed_in') map.set(g.answer || 'omitted', [...(map.get(g.answer || 'omitted') ?? []), g]);
		return [...map].toSorted((a, b) => b[1].length - a[1].length);
	});
	const classes = (some: Schemas['Given'][]) => {
		const map = new Map<string, { id: string; name: string; n: number }>();
		for (const g of some) map.set(g.class_id, { id: g.class_id, name: g.klass, n: (map.get(g.class_id)?.n ?? 0) + 1 });
		return [...map.values()].toSorted((a, b) => b.n - a.n || (a.name < b.name ? -1 : 1));
	};
</script>

<Panel label="Who gave which answer" class="p-4 text-[13.5px]">
	<div class="flex items-baseline gap-3">
		<h2 class="flex-1">Who gave which answer</h2>
		{#if who}<Button kind="quiet" class="min-h-[26px]" onclick={() => ((given = null), address.set({ who: null }))}
				>Hide</Button
			>{:else}<Button class="min-h-[28px]" onclick={() => address.set({ who: 'all' })}>Show the names</Button>{/if}
	</div>
	{#if problem}<p class="mt-1 text-vermilion">{problem}</p>{/if}
	{#if who && given}
		{#each groups as [answer, some] (answer)}
			<details class="border-b border-hair2 py-1 last:border-b-0" open={who === answer}>
				<summary class="min-h-[26px] cursor-pointer"
					><b class="font-semibold">{answer.length > 60 ? `${answer.slice(0, 60)}…` : answer}</b> · {some.length}{notes[
						answer
					]
						? ` · ${notes[answer]}`
						: ''}</summary
				>
				<div class="pb-2 pl-4">
					{#if some.some((g) => g.reason)}<dl>
							{#each some as g (g.sitting)}<dt class="small">
									<Student person={g.person} name={g.student} alias={alias.get(g.sitting) ?? 0} /> ({g.klass})
								</dt>
								<dd class="mb-1 pl-3">{g.reason || 'no reason written'}</dd>{/each}
						</dl>
					{:else}{#each classes(some) as c (c.id)}<p class="text-ink2">
								<span class="text-ink">{c.name}</span>
								{c.n}: {#each some.filter((g) => g.class_id === c.id) as g, n (g.sitting)}{n ? ', ' : ''}<Student
										person={g.person}
										name={g.student}
										alias={alias.get(g.sitting) ?? 0}
									/>{/each}
							</p>{/each}{/if}
					<div class="mt-1 flex flex-wrap items-center gap-2">
						<MakeGroup people={some.map((g) => g.person)} name="{code}: {answer}" /><Button
							kind="quiet"
							class="min-h-[26px]"
							href={address.href('/quality/look/grid', { student: null }) +
								some.map((g) => `&student=${g.person}`).join('')}>View their responses</Button
						>{#each classes(some).slice(0, 6) as c (c.id)}<a
								class="word text-[13px]"
								href={address.href('/quality/look/reteach', { of: c.id })}>Reteach in {c.name} ({c.n})</a
							>{/each}
					</div>
				</div>
			</details>
		{:else}<p class="small mt-1">You may not see the names of these students.</p>{/each}
	{/if}
</Panel>
