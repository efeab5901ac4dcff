<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import { onMount } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { staff } from '$lib/state/staff.svelte';

	/** Another form made of this one. What is made is a draft; students will see one title. */
	let { form, onleave }: { form: Schemas['FormDetail']; onleave: () => void } = $props();
	type Way = Schemas['CompanionIn']['way'];
	const WAYS: [Way, string, string][] = [
		[
			'alternate',
			'Alternate',
			'the same items in another order, options too, and other values where items were drawn: against copying'
		],
		['parallel', 'Parallel, for retakes', 'other items of the same standards, as long and as hard'],
		['shortened', 'Shortened', 'fewer items of each standard, at least one of each'],
		['adapted', 'Adapted', 'the same items with fewer options, large print, read aloud'],
		['demanding', 'More demanding', 'the same standards, harder items'],
		['mirror', 'Practice mirror', 'other items of the same standards; immediate feedback, not recorded']
	];
	let way = $state<Way>('alternate');
	let share = $state(50);
	let options = $state('3');
	let harder = $state(12);
	let klass = $state('');
	let person = $state<Schemas['PersonLine'] | null>(null);
	let classes = $state<{ id: string; title: string }[]>([]);
	let busy = $state(false);
	let problem = $state('');

	onMount(async () => {
		try {
			const found = await body(api.GET('/api/sessions/choices'));
			classes = found.classes.filter(
				(c) => (!form.subject || c.subject === form.subject) && (!form.grade || c.grade === form.grade)
			);
		} catch {
			/* not theirs to plan: then nobody's history is asked about */
		}
	});

	async function make(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		problem = '';
		try {
			const made = await body(
				api.POST('/api/building/forms/{form_id}/companions', {
					params: { path: { form_id: form.id } },
					body: {
						way,
						share: share / 100,
						options: options ? Number(options) : null,
						harder: harder / 100,
						class_id: klass || null,
						person_id: person?.id ?? null,
						seed: 1,
						job: ''
					}
				})
			);
			await goto(
				made.family_id
					? `/tests/families/${made.family_id}?made=${made.form_id}&says=${encodeURIComponent(made.says)}`
					: `/tests/${made.form_id}`
			);
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<form class="sheet mb-3 p-4" onsubmit={make} aria-label="Add companion">
	<div class="grid grid-cols-[1fr_300px] gap-6">
		<RadioGroup
			label="Kind of companion"
			bind:value={way}
			choices={WAYS.map(([value, label, more]) => ({ value, label, more }))}
			class="grid! grid-cols-2 gap-x-6 gap-y-2"
		/>
		<div class="flex flex-col gap-3">
			{#if way === 'shortened'}<label class="field"
					>Share of each standard's items to keep<span class="flex items-center gap-2"
						><input class="input w-20" type="number" min="10" max="95" bind:value={share} /> %</span
					></label
				>
				<p class="small">Compare its results by percentage and by standard, not by raw points.</p>
			{:else if way === 'adapted'}<label class="field"
					>Options per item<Select
						bind:value={options}
						choices={[
							{ value: '', label: 'all' },
							{ value: '2', label: '2' },
							{ value: '3', label: '3' }
						]}
						class="w-32"
					/></label
				>
				<p class="small">The wrong answers that students chose most often are kept.</p>
			{:else if way === 'demanding'}<label class="field"
					>Expected share lower by<span class="flex items-center gap-2"
						><input class="input w-20" type="number" min="2" max="50" bind:value={harder} /> %</span
					></label
				>
			{:else if way === 'parallel'}<p class="small">Items of this family are always left out.</p>
				<label class="field"
					>Exclude items this class has seen<Select
						bind:value={klass}
						choices={[{ value: '', label: 'no class' }, ...classes.map((c) => ({ value: c.id, label: c.title }))]}
					/></label
				>
				{#if person}<p class="text-[13.5px]">
						Exclude items {staff.name(person.name, 0)} has seen
						<Button kind="quiet" class="min-h-[26px]" onclick={() => (person = null)}>× Remove</Button>
					</p>
				{:else if staff.may('people.read')}<PersonPick
						kind="student"
						label="Exclude items this student has seen"
						onpick={(p) => (person = p)}
					/>{/if}{/if}
			{#if problem}<p class="border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
			<div class="mt-auto flex justify-end gap-2">
				<Button kind="quiet" onclick={onleave}>Cancel</Button><Button type="submit" kind="primary" disabled={busy}
					>{busy ? 'Looking for items …' : 'Make a draft'}</Button
				>
			</div>
		</div>
	</div>
</form>
