<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import { choices } from '$lib/design/choices';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
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
		['answers', 'Answer sheet', 'bubbles for scanning; with names when printed from a session'],
		['worksheet', 'Worksheet', 'boxes to check and room for work'],
		['key', 'Key', 'correct answers by the letters of this form, with solutions'],
		['guide', 'Scoring guide', 'rubrics and anchor papers for hand scoring']
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

<Notice text={problem} onclose={() => (problem = '')} />
{#if form}
	<div class="small mb-1">
		<a class="word" href="/tests">Tests</a> · <a class="word" href="/tests/{id}">{form.name}</a>
	</div>
	<Finding of="Paper form" title={`Paper: ${form?.name ?? ''}`} class="mb-3">
		{form.name} on paper: {form.items.length}
		{form.items.length === 1 ? 'question' : 'questions'}{byPerson
			? `, ${byPerson} hand-scored`
			: ', all auto-scored'}{screen ? `; ${screen} ask for a place on a picture, read by eye` : ''}.
	</Finding>
	{#if form.settings.draw}<p class="mb-3 border-l-4 border-l-vermilion pl-3 text-[13.5px]">
			This test is drawn for each student. On paper it is the whole pool: for a class print a form that is not drawn.
		</p>{/if}
	{#if form.items.length}
		<div class="grid grid-cols-[280px_minmax(0,1fr)] items-start gap-3">
			<div class="flex flex-col gap-3">
				<Panel label="What to print" class="p-3">
					<RadioGroup
						label="What to print"
						bind:value={what}
						choices={WHATS.map(([value, label, more]) => ({ value, label, more }))}
						class="flex-col gap-1.5"
					/>
					<div class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-hair px-2 pt-2 text-[13.5px]">
						<RadioGroup label="Paper size" bind:value={size} choices={choices('A4', 'Letter')} />
						{#if what === 'booklet' || what === 'worksheet'}<Checkbox bind:checked={large}>large print</Checkbox>{/if}
						{#if what === 'booklet'}<Checkbox bind:checked={sheet}>with an answer sheet</Checkbox>{/if}
					</div>
					{#if family && family.forms.length > 1}
						<label class="field mt-2 border-t border-hair px-2 pt-2"
							>Version<Select
								bind:value={other}
								choices={family.forms.map((f, at) => ({
									value: f.id === id ? '' : f.id,
									label: `${String.fromCharCode(65 + at)}: ${f.name}`
								}))}
							/></label
						>
						<p class="small px-2">Students see one title; the foot tells versions apart by {family.id}·A, B …</p>
					{/if}
					<Button kind="primary" class="mt-3 w-full justify-center" href={address} target="_blank" rel="noopener"
						>Open PDF</Button
					>
				</Panel>
				<Panel label="Files" class="p-3 text-[13.5px]">
					<h2 class="mb-1">As files</h2>
					<a class="word block leading-[28px]" href="/api/building/forms/{shownForm}/map.xlsx" download
						>Form map (XLSX)</a
					>
					<a class="word block leading-[28px]" href="/api/building/forms/{shownForm}/package.zip" download
						>QTI 3.0 package</a
					>
					<p class="small">
						The package contains items, sections, times, navigation and draws, but not kind, family, tools or scale.
					</p>
				</Panel>
			</div>
			<div
				class="h-[calc(100vh-150px)] overflow-auto rounded bg-hair p-4"
				aria-label="{what}, as it will be printed"
				role="region"
				{@attach scrollable}
			>
				{#if count === null}<p class="small">Preparing pages …</p>{/if}
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
	{:else}<p class="small">This form is empty: <a class="word" href="/tests/{id}">add items</a>.</p>{/if}
{/if}
