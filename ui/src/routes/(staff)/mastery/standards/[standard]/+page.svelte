<script lang="ts">
	import { goto, invalidateAll } from '$app/navigation';
	import { api, body, said } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, percent, short } from '$lib/words/show';
	import EnterClass from './EnterClass.svelte';
	import { STATES, TINTS } from '../../states';
	import Sessions from './Sessions.svelte';
	import type { PageProps } from './$types';

	/** A standard in a class: its sessions in time, its students by state, who needs it taught again. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	const states = $derived(
		STATES.map((state, at) => ({ state, at, people: (page?.students ?? []).filter((s) => s.state === state) }))
			.filter((s) => s.people.length)
			.reverse()
	);
	const address = (s: { form_id: string | null; window_id: string | null }, item: string) =>
		`/quality/look/item?${new URLSearchParams({ form: s.form_id ?? '', window: s.window_id ?? '', item })}`;
	/** A draft of a practice test, to be looked at and printed. */
	async function practice(way: 'reteach' | 'enrich') {
		if (!page) return;
		try {
			const made = await body(
				api.POST('/api/mastery/classes/{klass}/standards/{standard}/practice', {
					params: { path: { klass: page.class_id, standard: page.standard } },
					body: { way }
				})
			);
			await goto(`/tests/${made.id}`);
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<div class="small mb-1">
	<a class="word" href="/mastery{page ? `?klass=${page.class_id}` : ''}">{page ? page.klass : 'Mastery'}</a>
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of={page.code} station="Mastery" beside={page.klass} class="max-w-[860px] flex-1" live
			>{page.finding}</Finding
		>
		<Button class="ml-auto" href="/mastery/groups?klass={page.class_id}">Groups from needs</Button>
	</div>
	<p class="mb-3 max-w-[860px] text-[14px]">
		{page.text}{#if page.plain}<span class="small block">{page.plain}</span>{/if}
	</p>
	<div class="grid gap-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,420px)]">
		<Panel label="Sessions in time" class="px-4 py-3">
			<h2 class="text-[15px]">Sessions in time</h2>
			{#if page.sessions.length}
				<Sessions sessions={page.sessions} />
				<Table>
					<thead
						><tr><th>Test</th><th class="n">Class</th><th class="n">Grade</th><th>Its items, share right</th></tr
						></thead
					>
					<tbody>
						{#each page.sessions as s, place (place)}
							<tr>
								<td>{s.test}<span class="small block">{day(s.day)}, {s.n} took it</span></td>
								<td class="n"
									><b>{percent(s.share)}</b><span class="small block"
										>{percent(s.ci95[0] ?? null)} to {percent(s.ci95[1] ?? null)}</span
									></td
								>
								<td class="n"
									>{percent(s.grade)}{#if s.grade !== null}<span class="small block">of {s.grade_n}</span>{/if}</td
								>
								<td
									>{#each s.items as i, at (i.number)}{at ? ', ' : ''}<span class="leading-[26px] whitespace-nowrap"
											>{#if s.form_id}<a
													class="word"
													href={address(s, i.code)}
													title="{i.code}: its answers, and what its author noted on wrong ones">{i.number}</a
												>{:else}{i.code || 'by hand'}{/if}
											{percent(i.share)}</span
										>{/each}</td
								>
							</tr>
						{/each}
					</tbody>
				</Table>
				<p class="small mt-1">A class’s share has its 95% interval; every point counts as one try.</p>
			{:else}<p class="small mt-1">No test that this class took had the standard.</p>{/if}
			<h3 class="mt-4 text-[14px] font-semibold">Test it again</h3>
			{#if page.retestable === 0}<p class="small">The bank has no item you may see that could test it again.</p>
			{:else}
				<p class="small">
					{page.retestable === 1 ? '1 item' : `${page.retestable} items`} of the bank; none of a secure test.
					<a class="word" href="/bank?find=standard:{encodeURIComponent(page.code)}">Open all</a>
				</p>
				<ul class="mt-1 flex flex-wrap gap-x-4 gap-y-1 text-[13.5px]">
					{#each page.again as i (i.id)}<li>
							<a class="word" href="/bank/{i.id}">{i.code}</a>
							<span class="small"
								>{i.kind.replaceAll('_', ' ')}{i.p === null ? '' : `, p ${short(i.p)}`}{i.seen
									? ', class has had it'
									: ''}</span
							>
						</li>{/each}
				</ul>
			{/if}
			{#if page.may_enter}<EnterClass {page} onchange={() => invalidateAll()} />{/if}
		</Panel>
		<Panel label="Students by state" class="px-4 py-3">
			<h2 class="text-[15px]">Students by state</h2>
			<div class="my-2 flex h-[14px] overflow-hidden rounded-[2px] border border-hair" aria-hidden="true">
				{#each [...states].reverse() as s (s.state)}<i style="flex: {s.people.length}; background: {TINTS[s.at]}"
					></i>{/each}
			</div>
			{#each states as s (s.state)}
				<h3 class="mt-2 flex items-center gap-2 text-[14px] font-semibold">
					<i class="inline-block h-3 w-4 rounded-[2px] border border-hair" style="background: {TINTS[s.at]}"
					></i>{s.state}<span class="small font-normal">{s.people.length} of {page.students.length}</span>
				</h3>
				<ul class="text-[14px]">
					{#each s.people as p (p.person)}<li class="py-1" title={p.says}>
							<a class="word" href="/mastery/{p.person}?subject={encodeURIComponent(page.subject)}"
								>{staff.name(p.name, p.alias)}</a
							>
							{#if p.changed}<span class="small">was {p.changed}</span>{/if}
							{#if p.again}<span class="small">check again</span>{/if}
						</li>{/each}
				</ul>
			{/each}
			<div class="mt-3 grid gap-2 border-t border-hair pt-3">
				{#if page.reteach.length}<div>
						<p class="text-[14px]">
							<b>{page.reteach.length}</b> to reteach: enough evidence, and not mastered.
						</p>
						<div class="flex flex-wrap items-center gap-2">
							<MakeGroup people={page.reteach} name="Reteach {page.code}" />
							{#if page.retestable && page.may_practice}<Button class="min-h-[26px]" onclick={() => practice('reteach')}
									>Practice to print</Button
								>{/if}
						</div>
					</div>{/if}
				{#if page.enrich.length}<div>
						<p class="text-[14px]"><b>{page.enrich.length}</b> to enrich: mastered.</p>
						<div class="flex flex-wrap items-center gap-2">
							<MakeGroup people={page.enrich} name="Enrich {page.code}" />
							{#if page.retestable && page.may_practice}<Button class="min-h-[26px]" onclick={() => practice('enrich')}
									>Harder practice</Button
								>{/if}
						</div>
					</div>{/if}
			</div>
		</Panel>
	</div>
{/if}
