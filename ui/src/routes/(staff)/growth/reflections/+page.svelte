<script lang="ts">
	import { goto, invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import { toasts } from '$lib/design/toasts.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { day } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** What teachers conclude from growth and plan: asked for with a date, written beside the figures, gathered here. */
	type Place = Schemas['ReflectionPlace'];
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	let asking = $state(false);
	let measure = $state('');
	let due = $state('');
	let question = $state('');
	let open = $state('');
	let concludes = $state('');
	let plans = $state('');
	const line = $derived(page?.requests.find((r) => r.id === page.shown));
	const askable = $derived(data.measures.filter((m) => m.latest.length === 2 && !m.part_of));
	const key = (p: Place) => `${p.class_id} ${p.school_id} ${p.grade}`;
	const classes = $derived((page?.places ?? []).filter((p) => p.class_id !== null));
	const grades = $derived((page?.places ?? []).filter((p) => p.class_id === null));

	async function ask(event: Event) {
		event.preventDefault();
		const chosen = askable.find((m) => m.id === measure);
		const [start, end] = chosen?.latest ?? [];
		if (!start || !end) return;
		try {
			const made = await body(api.POST('/api/growth/reflections', { body: { measure, start, end, due, question } }));
			[asking, problem] = [false, ''];
			await goto(`/growth/reflections?request=${made.id}`, { invalidateAll: true });
		} catch (error) {
			problem = said(error);
		}
	}

	function write(place: Place) {
		open = key(place);
		concludes = place.written?.concludes ?? '';
		plans = place.written?.plans ?? '';
	}

	async function save(event: Event, place: Place) {
		event.preventDefault();
		if (!page?.shown) return;
		try {
			await body(
				api.PUT('/api/growth/reflections/{request}', {
					params: { path: { request: page.shown } },
					body: {
						class_id: place.class_id ?? '',
						school_id: place.school_id ?? '',
						grade: place.grade,
						concludes,
						plans
					}
				})
			);
			[open, problem] = ['', ''];
			toasts.say('Reflection saved.');
			await invalidate('bildung:reflections');
		} catch (error) {
			problem = said(error);
		}
	}

	async function end() {
		if (!page?.shown) return;
		try {
			await body(api.POST('/api/growth/reflections/{request}/end', { params: { path: { request: page.shown } } }));
			await invalidate('bildung:reflections');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

{#snippet one(place: Place)}
	<article class="border-b border-hair py-3 last:border-0" aria-label={place.name}>
		<div class="flex flex-wrap items-baseline gap-3">
			<h3 class="text-[15px] font-semibold">{place.name}</h3>
			<span class="small flex-1">{[place.school, place.teachers.join(', ')].filter(Boolean).join('; ')}</span>
			{#if place.written}<span class="small">written {day(place.written.at)} by {place.written.by}</span>
			{:else}<span class="small">not written yet</span>{/if}
			{#if place.mine && line && !line.ended && open !== key(place)}<Button onclick={() => write(place)}
					>{place.written ? 'Edit' : 'Write'}</Button
				>{/if}
		</div>
		<ul class="small mt-1 list-disc pl-5">
			{#each place.written && open !== key(place) ? place.written.figures : place.figures as said, at (at)}<li>
					{said}
				</li>{/each}
		</ul>
		{#if open === key(place)}
			<form class="mt-2 grid gap-2" onsubmit={(e) => save(e, place)}>
				<label class="field"
					>What do you conclude?<textarea class="input" rows="3" required maxlength="4000" bind:value={concludes}
					></textarea></label
				>
				<label class="field"
					>What will you do next?<textarea class="input" rows="3" required maxlength="4000" bind:value={plans}
					></textarea></label
				>
				<div class="flex gap-2">
					<Button type="submit" kind="primary">Save</Button>
					<Button onclick={() => (open = '')}>Cancel</Button>
				</div>
			</form>
		{:else if place.written}
			<p class="mt-1 text-[14px] whitespace-pre-line">{place.written.concludes}</p>
			<p class="mt-1 text-[14px] whitespace-pre-line"><b class="font-semibold">Next:</b> {place.written.plans}</p>
		{/if}
	</article>
{/snippet}

<div class="small mb-1"><a class="word" href="/growth">Growth</a></div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Reflections" station="Growth" class="max-w-[860px] flex-1">{page.finding}</Finding>
		{#if page.shown && line?.written}<Button href="/api/growth/reflections/{page.shown}/report.pdf">Print (PDF)</Button
			>{/if}
		{#if page.asks}<Button aria-expanded={asking} onclick={() => (asking = !asking)}>Ask for reflections</Button>{/if}
	</div>
	{#if asking}
		<Panel label="Ask for reflections" class="mb-3 px-5 py-4">
			<form class="flex flex-wrap items-end gap-3" onsubmit={ask}>
				<label class="field"
					>Measure<Select
						bind:value={measure}
						choices={askable.map((m) => ({
							value: m.id,
							label: m.name,
							more: m.windows
								.filter((w) => m.latest.includes(w.id))
								.map((w) => w.name)
								.join(' to ')
						}))}
					/></label
				>
				<DateField label="By" bind:value={due} required />
				<label class="field min-w-[320px] flex-1"
					>Question<input
						class="input"
						maxlength="300"
						placeholder="What do you conclude from these figures, and what will you do next?"
						bind:value={question}
					/></label
				>
				<Button type="submit" kind="primary" disabled={!measure || !due}>Ask</Button>
			</form>
			<p class="small mt-2">Teachers of the classes find it on Today until they have written.</p>
		</Panel>
	{/if}
	{#if line}
		<div class="mb-3 flex flex-wrap items-center gap-3">
			{#if page.requests.length > 1}<Select
					label="Request"
					value={page.shown ?? ''}
					choices={page.requests.map((r) => ({ value: r.id, label: `${r.measure}, ${r.between}` }))}
					onchange={(request) => void goto(`/growth/reflections?request=${request}`)}
				/>{/if}
			<span class="text-[14px]"
				>{line.question}
				<span class="small"
					>By {day(line.due)}{line.late ? ', which is over' : ''}; asked by {line.by}{line.ended ? '; ended' : ''}</span
				></span
			>
			<span class="flex-1"></span>
			<a class="word text-[13.5px]" href="/growth/{line.measure_id}?start={line.start}&end={line.end}">The figures</a>
			{#if page.asks && !line.ended}<Button kind="quiet" onclick={end}>End request</Button>{/if}
		</div>
		{#if grades.length}<Panel label="Grades" headed class="mb-3 px-5 py-3"
				>{#each grades as place (key(place))}{@render one(place)}{/each}</Panel
			>{/if}
		<Panel label="Classes" headed class="px-5 py-3"
			>{#each classes as place (key(place))}{@render one(place)}{/each}</Panel
		>
	{/if}
{/if}
