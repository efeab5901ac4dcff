<script lang="ts">
	import { untrack } from 'svelte';
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { Plan } from './plan.svelte';

	/** What a plan is to be like: which tests, who takes them where, which days. Filled in; Plan does the rest. */
	let { plan, ondone = () => {} }: { plan: Plan; ondone?: () => void } = $props();
	const board = untrack(() => plan.board);
	const wishes = $state(structuredClone(board.wishes));
	const tests = board.proposal.tests;
	let all = $state(false);
	const chosen = $derived(tests.filter((t) => wishes.tests.includes(t.form)));
	const shown = $derived(all || !chosen.length ? tests : chosen);
	const subjects = $derived([...new Set(chosen.map((t) => t.subject))]);
	const order = $derived([
		...wishes.order.filter((s) => subjects.includes(s)),
		...subjects.filter((s) => !wishes.order.includes(s))
	]);
	const classes = $derived(chosen.reduce((n, t) => n + t.classes, 0));

	function earlier(subject: string) {
		const at = order.indexOf(subject);
		const next = [...order];
		next.splice(at - 1, 2, subject, order[at - 1] ?? '');
		wishes.order = next;
	}

	let letting = $state(false);
	let until = $state(staff.calendar?.today ?? board.start);

	async function choosing() {
		const sent = { ...$state.snapshot(wishes), order } as Schemas['WishesIn'];
		if (await plan.openChoosing(sent, until)) ondone();
	}

	async function make(again: boolean) {
		const sent = { ...$state.snapshot(wishes), order } as Schemas['WishesIn'];
		ondone();
		await plan.make(sent, again);
	}
</script>

<div class="grid grid-cols-[92px_1fr] items-start gap-x-4 gap-y-4 text-[14px]">
	<b class="pt-1 font-semibold">Tests</b>
	<div>
		<p class="mb-1">
			{chosen.length}
			{chosen.length === 1 ? 'test' : 'tests'} for {classes}
			{classes === 1 ? 'class' : 'classes'}.
			{#if board.proposal.says}<span class="small">{board.proposal.says}</span>{/if}
		</p>
		<div class="grid max-h-[220px] grid-cols-2 gap-x-6 overflow-y-auto">
			{#each shown as test (test.form)}
				<Checkbox
					bind:checked={
						() => wishes.tests.includes(test.form),
						(on) =>
							(wishes.tests = on ? [...wishes.tests, test.form] : wishes.tests.filter((id: string) => id !== test.form))
					}
					>{test.name}
					<span class="small">{test.minutes} min, {test.classes} {test.classes === 1 ? 'class' : 'classes'}</span
					></Checkbox
				>
			{/each}
		</div>
		{#if chosen.length}<button class="word small mt-1" onclick={() => (all = !all)}
				>{all ? 'Show chosen tests' : `Choose among ${tests.length} tests`}</button
			>{/if}
	</div>
	<b class="pt-1 font-semibold">Students</b>
	<div class="flex flex-wrap items-center gap-x-4 gap-y-2">
		<ToggleGroup
			label="Where classes test"
			bind:value={wishes.where}
			choices={[
				{ value: 'homerooms', label: 'In homerooms' },
				{ value: 'lessons', label: 'In lessons' }
			]}
		/>
		<label class="flex items-center gap-2 whitespace-nowrap"
			>At most
			<Select
				small
				bind:value={wishes.a_day}
				choices={[1, 2, 3].map((n) => ({ value: n, label: `${n} a day` }))}
				label="Tests a day"
			/></label
		>
		<span class="small">Students with a setting of their own are placed together, near their class.</span>
	</div>
	<b class="pt-1 font-semibold">Days</b>
	<div class="flex flex-wrap items-end gap-x-4 gap-y-2">
		<DateField label="From" bind:value={wishes.first} min={board.start} max={board.end} />
		<DateField label="To" bind:value={wishes.last} min={board.start} max={board.end} />
		<div class="flex flex-wrap gap-4 pb-2">
			<Checkbox bind:checked={wishes.mornings}>mornings first</Checkbox>
			<Checkbox bind:checked={wishes.spread}>spread evenly</Checkbox>
		</div>
		{#if order.length > 1}
			<p class="w-full text-[14px]">
				Order of subjects: {#each order as subject, at (subject)}{at ? ', then ' : ''}{#if at}<button
							class="word"
							title="Move {subject} earlier"
							onclick={() => earlier(subject)}>{subject}</button
						>{:else}<b class="font-semibold">{subject}</b>{/if}{/each}
			</p>
		{/if}
	</div>
	<b class="pt-2 font-semibold">Names</b>
	<div>
		<input class="input w-[340px]" aria-label="Rule for names" bind:value={wishes.title} maxlength="120" />
		<p class="small mt-1">
			What students see. Parts: {'{window} {subject} {grade} {class} {room} {date} {block} {test}'}
		</p>
	</div>
</div>
<div class="mt-4 flex items-center gap-3">
	<Button kind="primary" disabled={!chosen.length || !!plan.working} onclick={() => make(!!board.plan)}
		>{board.plan ? 'Plan again' : 'Plan'}</Button
	>
	{#if board.plan}<Button disabled={!!plan.working} onclick={() => make(false)}>Start over</Button>
		<span class="small">Plan again moves as little as possible; start over keeps what you placed by hand.</span>
	{:else}<span class="small flex-1">Takes some seconds. Nothing is scheduled until you publish.</span>{/if}
	<Button onclick={() => (letting = !letting)}>Let teachers choose</Button>
</div>
{#if letting}
	<div class="mt-3 flex flex-wrap items-end gap-3 border-t border-hair pt-3">
		<DateField label="Until the end of" bind:value={until} min={staff.calendar?.today} max={wishes.last} />
		<Button kind="primary" disabled={!chosen.length || !until} onclick={choosing}>Open choosing</Button>
		<span class="small flex-1 pb-2"
			>Teachers see this on Today and choose blocks for their own classes, under the same checks. You fill in the rest.</span
		>
	</div>
{/if}
