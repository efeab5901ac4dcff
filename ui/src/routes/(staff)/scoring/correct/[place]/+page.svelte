<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkboxes from '$lib/design/Checkboxes.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import AsAsked from '$lib/parts/AsAsked.svelte';
	import CorrectionList from '$lib/parts/CorrectionList.svelte';
	import Markup from '$lib/parts/Markup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Moves from './Moves.svelte';
	import type { Kind } from './correcting.svelte';
	import type { PageProps } from './$types';

	/** A correction of one item: what is to hold, what would move, and the decision with its reason. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	const item = $derived(page.item);
	const part = $derived(page.scored);
	const options = $derived(part?.options.map(([id, html]) => ({ value: id ?? '', label: html ?? '' })) ?? []);
	const KINDS = $derived<{ value: Kind; label: string }[]>([
		...(item?.parts.length ? [{ value: 'key' as const, label: 'Key' }] : []),
		{ value: 'everybody', label: 'Full credit for everyone' },
		{ value: 'drop', label: 'Drop the item' },
		...(page.sitting ? [{ value: 'score' as const, label: 'One score' }] : []),
		...(page.scorer || page.scoring ? [{ value: 'rescore' as const, label: 'Score again' }] : [])
	]);
	const SPELLING = [
		{ value: 'exact', label: 'exact spelling' },
		{ value: 'plain', label: 'case and spaces ignored' },
		{ value: 'near', label: 'one slip allowed' }
	];
</script>

<Notice text={page.problem} onclose={() => (page.problem = '')} />
{#if item}
	<div class="small mb-1">
		<a class="word" href="/scoring">Scoring</a>&ensp;<a class="word" href="/scoring/corrections">Corrections</a>
	</div>
	<Finding
		of="Correct item {item.number}"
		title="Correct {item.item}"
		station="Scoring"
		beside="{item.form}, {item.window}"
		live
		>{page.done ||
			page.preview?.says ||
			(page.busy
				? page.progress || 'Calculating what would move …'
				: item.ruled || 'Choose what is to hold; nothing is changed yet.')}</Finding
	>
	<div class="correct mt-3">
		<Panel label="Item {item.number}" class="px-5 py-4">
			<AsAsked shown={item.shown} stimulus={item.stimulus} name="asked" height="300px" />
		</Panel>
		<Panel label="Correction" class="px-5 py-4">
			<ToggleGroup label="What to correct" choices={KINDS} bind:value={page.kind} onchange={() => void page.look()} />
			<div class="mt-3 grid gap-2 text-[14px]">
				{#if page.kind === 'key' && part}
					{#if item.parts.length > 1}<Select
							label="Part"
							choices={item.parts.map((p) => ({ value: p.id, label: `Part ${p.id}` }))}
							bind:value={() => page.part, (id) => (page.choosePart(id), void page.look())}
							small
						/>{/if}
					<p class="small">Scored by {part.key} now, {part.points} {part.points === 1 ? 'point' : 'points'}.</p>
					{#if options.length && part.kind !== 'order' && part.kind !== 'match'}
						<fieldset class="grid gap-1">
							<legend class="small mb-1"
								>{part.several ? 'All of these are to be chosen' : 'Each of these is accepted'}</legend
							>
							<Checkboxes
								values={page.chosen}
								choices={options}
								onchange={(values) => (page.choose(values), void page.look())}
							>
								{#snippet each(choice)}<b class="mr-1.5">{choice.value}</b><Markup
										html={choice.label}
										inline
									/>{/snippet}
							</Checkboxes>
						</fieldset>
					{:else}
						<form class="flex items-end gap-2" onsubmit={(e) => (e.preventDefault(), void page.look())}>
							<label class="field flex-1"
								>{part.numeric ? 'Key, with a tolerance after ~' : 'Accepted answers, with | between them'}<input
									class="input"
									bind:value={page.key}
									maxlength="2000"
								/></label
							><Button type="submit" disabled={!page.ready}>Look</Button>
						</form>
						{#if part.spelling}<RadioGroup
								label="Spelling"
								choices={SPELLING}
								bind:value={page.spelling}
								onchange={() => void page.look()}
							/>{/if}
					{/if}
				{:else if page.kind === 'everybody'}
					<RadioGroup
						label="Who gets the points"
						choices={[
							{ value: 'all', label: 'everyone who took the test' },
							{ value: 'reached', label: 'only those who reached the item' }
						]}
						value={page.unreached ? 'all' : 'reached'}
						onchange={(value) => ((page.unreached = value === 'all'), void page.look())}
					/>
				{:else if page.kind === 'drop'}
					<p>The item counts in no total: neither its points nor its maximum. What it did stays in its history.</p>
				{:else if page.kind === 'score'}
					<form class="flex items-end gap-2" onsubmit={(e) => (e.preventDefault(), void page.look())}>
						<label class="field"
							>Points, 0 to {item.points}<input
								class="input w-[120px]"
								type="number"
								min="0"
								max={item.points}
								step="any"
								bind:value={page.points}
							/></label
						><Button type="submit" disabled={!page.ready}>Look</Button>
					</form>
				{:else}
					<p>These scores count no longer, and the responses go back to the other scorers. No score is changed.</p>
				{/if}
				{#if page.refused}<p class="text-vermilion" role="alert">{page.refused}</p>{/if}
				{#if page.preview}
					<form
						class="mt-1 flex items-end gap-2 border-t border-hair pt-3"
						onsubmit={(e) => (e.preventDefault(), void page.decide())}
					>
						<label class="field flex-1"
							>Why<input class="input" bind:value={page.reason} maxlength="500" required /></label
						>
						<Button type="submit" kind="primary" disabled={page.busy || !page.reason.trim()}>Correct results</Button>
					</form>
					<p class="small">Released results stay as they were told until they are released again.</p>
				{/if}
			</div>
		</Panel>
	</div>
	{#if page.preview}{#each page.preview.administrations as moved (`${moved.form_id} ${moved.window_id}`)}<Moves
				{moved}
			/>{/each}{/if}
	{#if item.made.length}
		<h2 class="mt-5 mb-1 text-[15px]">Corrections of this item</h2>
		<CorrectionList lines={item.made} onundo={(id, why) => page.undo(id, why)} />
	{/if}
{/if}

<style>
	.correct {
		display: grid;
		gap: 12px;
		grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
		align-items: start;
	}
	@media (max-width: 900px) {
		.correct {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
