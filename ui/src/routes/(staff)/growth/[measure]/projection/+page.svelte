<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { toasts } from '$lib/design/toasts.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { decimal, percent, whole } from '$lib/words/show';
	import { ask } from '../../asked';
	import Scope from '../../Scope.svelte';
	import Views from '../../Views.svelte';
	import OnTrack from './OnTrack.svelte';
	import type { PageProps } from './$types';

	/** Who is on track for a later window; targets; goals that are kept and held against what came. */
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	let focus = $state('');
	let show = $state<'off track' | 'uncertain' | 'on track'>('uncertain');
	let chosen = $state<string[]>([]);
	let target = $state<'target50' | 'target80'>('target80');
	let how = $state(false);
	const listed = $derived((page?.students ?? []).filter((s) => s.track === show).sort(nearest));
	const came = $derived((page?.students ?? []).some((s) => s.came !== null));

	/** Whoever is nearest to the other side first: that is where a decision is open. */
	function nearest(a: Schemas['ProjectedStudent'], b: Schemas['ProjectedStudent']) {
		return (b.will_score ?? 0) - (a.will_score ?? 0);
	}

	const go = (change: Record<string, string>) => ask(`/growth/${params.measure}/projection`, data.query, change);

	async function keep() {
		if (!page) return;
		const goals = page.students
			.filter((s) => chosen.includes(s.id) && s[target] !== null)
			.map((s) => ({ person: s.id, score: s[target] ?? 0, kind: target }));
		try {
			const done = await body(
				api.POST('/api/growth/measures/{measure}/goals', {
					params: { path: { measure: params.measure } },
					body: { by_day: page.to.day, goals }
				})
			);
			[problem, chosen] = ['', []];
			toasts.say(done.says);
			await invalidate('bildung:projection');
		} catch (error) {
			problem = said(error);
		}
	}

	async function withdraw(goal: string) {
		try {
			await body(api.DELETE('/api/growth/goals/{goal}', { params: { path: { goal } } }));
			await invalidate('bildung:projection');
		} catch (error) {
			problem = said(error);
		}
	}

	const tick = (id: string, on: boolean) => (chosen = on ? [...chosen, id] : chosen.filter((one) => one !== id));
	const between = (g: Schemas['ProjectedGroup']) =>
		g.low === null || g.mean === null ? '–' : `${decimal(g.mean, 0)} (${g.low} to ${g.high})`;
</script>

<Views measure={params.measure} now="projection" at={data.query.at} />
<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<Finding
		of="{page.measure.name}, {page.at.name} to {page.to.name}"
		title={page.measure.name}
		station="Growth"
		beside={page.goal ? `goal: ${page.goal}` : 'without cut scores'}
		class="mb-2 max-w-[900px]"
		live>{page.finding}</Finding
	>
	<div class="mb-3 flex flex-wrap items-end gap-3">
		<label class="field"
			>From<Select
				value={page.at.id}
				choices={page.windows.map((w) => ({ value: w.id, label: w.name }))}
				onchange={(at) => go({ at, to: '' })}
			/></label
		>
		<label class="field"
			>To<Select
				value={page.to.key}
				choices={page.later.map((w) => ({ value: w.key, label: w.name }))}
				onchange={(to) => go({ to })}
			/></label
		>
		<Scope of={page} {go} />
		{#if page.cuts.length}<span class="small pb-1.5"
				>Cut score in {page.to.name}: {page.cuts.map((c) => `grade ${c.id} ${c.name}`).join(', ')}</span
			>{:else}<a class="word pb-1.5 text-[13.5px]" href="/growth/{params.measure}/cuts">Enter cut scores</a>{/if}
	</div>
	{#if page.cuts.length && page.students.some((s) => s.will_score !== null)}
		<div class="grid gap-3 lg:grid-cols-[minmax(0,55fr)_minmax(0,45fr)]">
			<Panel label="Around the cut score" class="px-4 py-3">
				<div class="flex items-baseline gap-3">
					<h2 class="text-[15px]">Around the cut score</h2>
					<span class="small">each dot a student, by expected points from the cut score in {page.to.name}</span>
				</div>
				<OnTrack students={page.students} bind:focus />
				<p class="small">
					{#each page.students.filter((s) => s.id === focus) as s (s.id)}
						<b class="text-ink">{staff.name(s.name, s.alias)}</b>, {s.klass}: {decimal(s.score, page.measure.decimals)} now,
						{decimal(s.expected, 0)} expected, give or take {decimal(s.spread, 0)}; will score there with {percent(
							s.will_score
						)}, will truly be there with {percent(s.will_be)}.
						<a class="word" href="/growth/{params.measure}/students/{s.id}">All scores</a>
					{/each}
				</p>
			</Panel>
			<Panel label="How many are expected" class="px-4 py-3">
				<div class="flex items-baseline gap-3">
					<h2 class="text-[15px]">How many are expected</h2>
					<span class="small">8 of 10 such classes end within it</span>
				</div>
				<div>
					<Table within="max-h-[320px] overflow-auto">
						<thead
							><tr
								><th>Class</th><th class="n">Students</th><th class="n">Expected</th>{#if came}<th class="n">Came</th
									>{/if}<th class="n">On track</th><th class="n">Off track</th></tr
							></thead
						>
						<tbody>
							{#each [...page.groups.map( (g) => ({ ...g, name: `Grade ${g.name}` }) ), ...page.by_class] as g (`${g.id} ${g.name}`)}
								<tr class={g.id === '0' ? 'font-semibold' : ''}
									><td>{g.name}</td><td class="n">{whole(g.n)}</td>{#if g.hidden}<td colspan="4" class="small"
											>not shown, too few</td
										>{:else}<td class="n">{between(g)}</td>{#if came}<td class="n"
												>{g.came === null ? '' : `${g.came} of ${g.came_of}`}</td
											>{/if}<td class="n">{g.on_track}</td><td class="n">{g.off_track}</td>{/if}</tr
								>
							{/each}
						</tbody>
					</Table>
				</div>
			</Panel>
			<Panel label="Students" class="px-4 py-3 lg:col-span-2">
				<div class="mb-1 flex flex-wrap items-center gap-3">
					<h2 class="text-[15px]">Students</h2>
					<ToggleGroup
						label="Which"
						bind:value={show}
						choices={(['off track', 'uncertain', 'on track'] as const).map((value) => ({
							value,
							label: `${value[0]!.toUpperCase()}${value.slice(1)} (${page.students.filter((s) => s.track === value).length})`
						}))}
					/>
					<span class="flex-1"></span>
					{#if page.set_goals}
						<ToggleGroup
							label="Goal"
							bind:value={target}
							choices={[
								{ value: 'target80', label: '80% target' },
								{ value: 'target50', label: '50% target' }
							]}
						/>
						<Button onclick={() => (chosen = listed.map((s) => s.id))}>Select all</Button>
						<Button kind="primary" disabled={!chosen.length} onclick={keep}
							>Save {whole(chosen.length)} {chosen.length === 1 ? 'goal' : 'goals'}</Button
						>
					{/if}
				</div>
				<Table within="max-h-[400px] overflow-auto" rows={listed.length} empty="No student here.">
					<thead
						><tr
							>{#if page.set_goals}<th><span class="sr-only">Chosen</span></th>{/if}<th>Student</th><th>Class</th><th
								class="n">{page.at.name}</th
							><th class="n">Expected</th><th class="n">Will score</th><th class="n">Will be</th><th class="n"
								>50% target</th
							><th class="n">80% target</th><th>Ordinary growth</th><th>Goal</th>{#if came}<th class="n"
									>{page.to.name}</th
								>{/if}</tr
						></thead
					>
					<tbody>
						{#each listed as s (s.id)}
							<tr>
								{#if page.set_goals}<td
										><Checkbox
											bind:checked={() => chosen.includes(s.id), (on) => tick(s.id, on)}
											label={staff.name(s.name, s.alias)}
										/></td
									>{/if}
								<td
									><a class="word" href="/growth/{params.measure}/students/{s.id}">{staff.name(s.name, s.alias)}</a></td
								>
								<td>{s.klass}</td>
								<td class="n">{decimal(s.score, page.measure.decimals)}</td>
								<td class="n">{decimal(s.expected, 0)} ± {decimal(s.spread, 0)}</td>
								<td class="n">{percent(s.will_score)}</td>
								<td class="n">{percent(s.will_be)}</td>
								<td class="n">{decimal(s.target50, 0)}</td>
								<td class="n">{decimal(s.target80, 0)}</td>
								<td>{s.ordinary === null ? '' : s.ordinary ? 'is enough' : 'is not enough'}</td>
								<td
									>{#if s.goal}<span title="set by {s.goal.by}">{decimal(s.goal.score, 0)}</span>
										{#if s.came !== null}<span class="small">{s.reached ? 'reached' : 'not reached'}</span
											>{:else if page.set_goals}<Button
												kind="quiet"
												aria-label="Withdraw the goal of {staff.name(s.name, s.alias)}"
												onclick={() => s.goal && withdraw(s.goal.id)}>Withdraw</Button
											>{/if}{/if}</td
								>
								{#if came}<td class="n">{s.came === null ? '' : decimal(s.came, page.measure.decimals)}</td>{/if}
							</tr>
						{/each}
					</tbody>
				</Table>
				<p class="small mt-2">
					<Button kind="quiet" aria-expanded={how} onclick={() => (how = !how)}>How this was calculated</Button>
				</p>
				{#if how}<ul class="small list-disc pl-5">
						{#each [...page.workings, ...page.why] as line (line)}<li>{line}</li>{/each}
					</ul>{/if}
			</Panel>
		</div>
	{:else}
		<ul class="small list-disc pl-5">
			{#each page.why as line (line)}<li>{line}</li>{/each}
		</ul>
	{/if}
{/if}
