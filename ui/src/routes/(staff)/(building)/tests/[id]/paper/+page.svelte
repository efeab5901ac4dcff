<script lang="ts">
	import { api, body, said } from '$lib/api/client';
	import { scrollable } from '$lib/parts/scrollable';
	import Notice from '$lib/parts/Notice.svelte';
	import type { PageProps } from './$types';

	/** What a form gives on paper and as files, seen before it is printed. */
	let { data }: PageProps = $props();
	const form = $derived(data.form);
	const family = $derived(data.family);
	let problem = $derived(data.problem);
	const id = $derived(data.id);
	const WHATS: [string, string, string][] = [
		['booklet', 'Booklet', 'the questions; pages break between them'],
		['answers', 'Answer sheet', 'circles that a reader finds its way on; with names from a session'],
		['worksheet', 'Worksheet', 'boxes to tick and room for working'],
		['key', 'Key', 'right answers by the letters of this form, with solutions'],
		['guide', 'Scoring guide', 'rubrics and exemplars for whoever marks by hand']
	];
	let what = $state('booklet');
	let size = $state<'A4' | 'Letter'>('A4');
	let large = $derived(data.form?.settings.large_print ?? false);
	let sheet = $state(true);
	let other = $state('');
	const shownForm = $derived(other || id);
	const base = $derived(`/api/building/forms/${shownForm}/paper/${what}`);
	const settings = $derived(`size=${size}&large=${large}&sheet=${sheet}`);
	const address = $derived(`${base}?${settings}`);
	let count = $state<number | null>(null);

	$effect(() => {
		const query = { size, large, sheet };
		let current = true;
		count = null;
		if (form?.items.length)
			body(
				api.GET('/api/building/forms/{form_id}/paper/{what}/pages', {
					params: { path: { form_id: shownForm, what }, query }
				})
			)
				.then((found) => current && (count = found.pages))
				.catch((error) => current && (problem = said(error)));
		return () => (current = false);
	});

	const byPerson = $derived(form?.items.filter((i) => i.scoring.some((s) => s.rubric?.length)).length ?? 0);
	const screen = $derived(form?.items.filter((i) => i.kind === 'point').length ?? 0);
</script>

<svelte:head><title>Paper: {form?.name ?? ''} · Bildung</title></svelte:head>

<Notice text={problem} onclose={() => (problem = '')} />
{#if form}
	<div class="small mb-1">
		<a class="word" href="/tests">Tests</a> · <a class="word" href="/tests/{id}">{form.name}</a>
	</div>
	<h1 class="mb-3">
		{form.name} on paper: {form.items.length}
		{form.items.length === 1 ? 'question' : 'questions'}{byPerson
			? `, ${byPerson} marked by a person`
			: ', none needs a person to mark it'}{screen ? `; ${screen} ask for a place on a picture, read by eye` : ''}.
	</h1>
	{#if form.settings.draw}<p class="mb-3 border-l-4 border-l-vermilion pl-3 text-[13.5px]">
			This test is drawn for each student. On paper it is the whole pool: for a class print a form that is not drawn.
		</p>{/if}
	{#if form.items.length}
		<div class="grid grid-cols-[280px_minmax(0,1fr)] items-start gap-3">
			<div class="flex flex-col gap-3">
				<section class="sheet p-3" aria-label="What to print">
					{#each WHATS as [name, word, says] (name)}
						<label class="flex items-start gap-2 rounded px-2 py-1.5 text-[13.5px] {what === name ? 'bg-wash' : ''}"
							><input class="mt-1" type="radio" name="what" value={name} bind:group={what} /><span
								><b class="font-semibold">{word}</b><span class="small block leading-snug">{says}</span></span
							></label
						>
					{/each}
					<div class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-hair px-2 pt-2 text-[13.5px]">
						<label class="flex items-center gap-1.5"><input type="radio" value="A4" bind:group={size} /> A4</label>
						<label class="flex items-center gap-1.5"
							><input type="radio" value="Letter" bind:group={size} /> Letter</label
						>
						{#if what === 'booklet' || what === 'worksheet'}<label class="flex items-center gap-1.5"
								><input type="checkbox" bind:checked={large} /> large print</label
							>{/if}
						{#if what === 'booklet'}<label class="flex items-center gap-1.5"
								><input type="checkbox" bind:checked={sheet} /> with an answer sheet</label
							>{/if}
					</div>
					{#if family && family.forms.length > 1}
						<label class="field mt-2 border-t border-hair px-2 pt-2"
							>Version<select class="input" bind:value={other}
								>{#each family.forms as f, at (f.id)}<option value={f.id === id ? '' : f.id}
										>{String.fromCharCode(65 + at)}: {f.name}</option
									>{/each}</select
							></label
						>
						<p class="small px-2">Students see one title; the foot tells versions apart by {family.id}·A, B …</p>
					{/if}
					<a class="btn primary mt-3 w-full justify-center" href={address} target="_blank" rel="noopener"
						>Open for printing</a
					>
				</section>
				<section class="sheet p-3 text-[13.5px]" aria-label="Files">
					<h2 class="mb-1">As files</h2>
					<a class="word block leading-[28px]" href="/api/building/forms/{shownForm}/map.xlsx" download
						>Form map (XLSX)</a
					>
					<a class="word block leading-[28px]" href="/api/building/forms/{shownForm}/package.zip" download
						>QTI 3.0 package</a
					>
					<p class="small">
						The package has items, parts, times, movement and draws; kind, family, tools and scale stay here.
					</p>
				</section>
			</div>
			<div
				class="h-[calc(100vh-150px)] overflow-auto rounded bg-hair p-4"
				aria-label="{what}, as it will be printed"
				role="region"
				{@attach scrollable}
			>
				{#if count === null}<p class="small">Setting the pages …</p>{/if}
				{#each Array.from({ length: count ?? 0 }, (_, n) => n + 1) as n (`${settings} ${n}`)}
					<img
						class="mx-auto mb-4 block w-full max-w-[760px] bg-sheet"
						style:aspect-ratio={size === 'A4' ? '210 / 297' : '216 / 279'}
						loading="lazy"
						src="{base}/pages/{n}?{settings}"
						alt="Page {n} of {count}"
					/>
				{/each}
			</div>
		</div>
	{:else}<p class="small">Nothing on it yet: <a class="word" href="/tests/{id}">choose its items</a>.</p>{/if}
{/if}
