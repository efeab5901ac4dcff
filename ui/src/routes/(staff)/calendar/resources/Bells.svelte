<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Select from '$lib/design/Select.svelte';
	import TimeField from '$lib/design/TimeField.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import type { Resources } from './resources.svelte';

	/** Kinds of days with their blocks, how they follow each other, and single days that are otherwise. */
	let { shown }: { shown: Resources } = $props();
	const bells = $derived(shown.bells);
	const may = $derived(shown.page.may);
	const WEEK = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday'];
	const names = $derived(bells.types.map((t) => ({ value: t.name, label: t.name })));

	function addType() {
		const last = bells.types.at(-1);
		const letter = String.fromCharCode(65 + bells.types.length);
		const blocks = last
			? last.blocks.map((b) => ({ ...b }))
			: [
					{ name: '1', start: '08:30', end: '09:30' },
					{ name: '2', start: '09:40', end: '10:40' }
				];
		bells.types.push({ id: null, name: letter, blocks });
		if (!bells.cycle) while (bells.pattern.length < 5) bells.pattern.push(letter);
		else bells.pattern.push(letter);
	}

	function addBlock(at: number) {
		const type = bells.types[at];
		const last = type?.blocks.at(-1);
		type?.blocks.push({ name: String(type.blocks.length + 1), start: last?.end ?? '08:30', end: last?.end ?? '09:30' });
	}

	function follow(cycle: boolean) {
		const first = bells.types[0]?.name ?? '';
		bells.cycle = cycle;
		bells.pattern = cycle ? bells.types.map((t) => t.name) : WEEK.map(() => first);
	}
</script>

<section class="sheet mt-3 px-4 py-3" aria-labelledby="bells">
	<h2 id="bells" class="mb-2">Bell schedules</h2>
	{#if !bells.types.length}<p class="mb-2 text-[14px]">
			None entered. Plans use four blocks: 8:30, 9:40, 10:50 and 12:40, an hour each.
		</p>{/if}
	<div class="grid grid-cols-2 gap-6 max-[1100px]:grid-cols-1">
		{#each bells.types as type, at (at)}
			<div>
				<div class="mb-1 flex items-center gap-2">
					<input class="input small-input w-[150px]" aria-label="Kind of day" bind:value={type.name} disabled={!may} />
					{#if may}<Button kind="quiet" onclick={() => bells.types.splice(at, 1)}>Remove</Button>{/if}
				</div>
				<table aria-label="Blocks of {type.name}">
					<thead><tr><th>Block</th><th>From</th><th>To</th><th></th></tr></thead>
					<tbody>
						{#each type.blocks as block, n (n)}
							<tr>
								<td
									><input
										class="input small-input w-[60px]"
										aria-label="Name of the block"
										bind:value={block.name}
										disabled={!may}
									/></td
								>
								<td><TimeField label="From" bind:value={block.start} disabled={!may} /></td>
								<td><TimeField label="To" bind:value={block.end} disabled={!may} /></td>
								<td
									>{#if may}<Button
											kind="quiet"
											aria-label="Remove block {block.name}"
											onclick={() => type.blocks.splice(n, 1)}>×</Button
										>{/if}</td
								>
							</tr>
						{/each}
					</tbody>
				</table>
				{#if may}<Button kind="quiet" onclick={() => addBlock(at)}>Add block</Button>{/if}
			</div>
		{/each}
	</div>
	{#if may}<Button class="mt-2" onclick={addType}>Add kind of day</Button>{/if}
	{#if bells.types.length}
		<div class="mt-4 flex flex-wrap items-end gap-4 text-[14px]">
			<ToggleGroup
				label="How the kinds of days follow each other"
				value={bells.cycle ? 'cycle' : 'week'}
				choices={[
					{ value: 'week', label: 'By weekday' },
					{ value: 'cycle', label: 'In a cycle' }
				]}
				disabled={!may}
				onchange={(to) => follow(to === 'cycle')}
			/>
			{#each bells.pattern as _, n (n)}
				<label class="field w-[100px]"
					>{bells.cycle ? `Day ${n + 1}` : (WEEK[n] ?? `Day ${n + 1}`)}
					<Select small bind:value={bells.pattern[n]} choices={names} disabled={!may} /></label
				>
			{/each}
			{#if bells.cycle}
				<DateField label="Day 1 is" bind:value={bells.first} disabled={!may} />
				<div class="pb-2">
					<Checkbox bind:checked={bells.shifts} disabled={!may}>a snow day moves the cycle on by a day</Checkbox>
				</div>
			{/if}
		</div>
		<h3 class="mt-4 mb-1 text-[14px] font-semibold">Single days</h3>
		{#each bells.changes as change, n (n)}
			<div class="mb-1 flex flex-wrap items-end gap-3">
				<DateField label="Day" hidden bind:value={change.day} disabled={!may} />
				<Select
					class="w-[170px]"
					label="What it is"
					bind:value={change.type}
					choices={[{ value: '', label: 'no school' }, ...names]}
					disabled={!may}
				/>
				<input
					class="input w-[240px]"
					placeholder="why, such as snow"
					aria-label="Why"
					bind:value={change.why}
					disabled={!may}
				/>
				{#if may}<Button kind="quiet" onclick={() => bells.changes.splice(n, 1)}>Remove</Button>{/if}
			</div>
		{/each}
		{#if may}<Button kind="quiet" onclick={() => bells.changes.push({ day: '', type: '', why: '' })}
				>Add a single day</Button
			>{/if}
	{/if}
	{#if may}<div class="mt-3">
			<Button kind="primary" disabled={shown.busy} onclick={() => shown.saveBells()}>Save bell schedules</Button>
		</div>{/if}
</section>
