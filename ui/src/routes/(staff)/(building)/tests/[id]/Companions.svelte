<script lang="ts">
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
		['parallel', 'Fresh, for retakes', 'other items of the same standards, as long and as hard'],
		['shortened', 'Shortened', 'fewer items of each standard, at least one of each'],
		['adapted', 'Adapted', 'the same items with fewer options, large print, read aloud'],
		['demanding', 'More demanding', 'the same standards, harder items'],
		['mirror', 'Mirror, to practise', 'other items of the same standards; told of at once, in no record']
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
		<fieldset class="grid grid-cols-2 gap-x-6 gap-y-1">
			<legend class="sr-only">Which companion</legend>
			{#each WAYS as [name, word, says] (name)}
				<label class="flex items-start gap-2 rounded px-2 py-1.5 text-[13.5px] {way === name ? 'bg-wash' : ''}"
					><input class="mt-1" type="radio" name="way" value={name} bind:group={way} /><span
						><b class="font-semibold">{word}</b><span class="block text-ink2">{says}</span></span
					></label
				>
			{/each}
		</fieldset>
		<div class="flex flex-col gap-3">
			{#if way === 'shortened'}<label class="field"
					>Of the items of each standard, keep about<span class="flex items-center gap-2"
						><input class="input !w-20" type="number" min="10" max="95" bind:value={share} /> %</span
					></label
				>
				<p class="small">Its results compare by share and by standard, never by raw points.</p>
			{:else if way === 'adapted'}<label class="field"
					>Options of each choice<select class="input !w-32" bind:value={options}
						><option value="">all</option><option value="2">2</option><option value="3">3</option></select
					></label
				>
				<p class="small">Of the wrong ones those stay that most students chose the last time.</p>
			{:else if way === 'demanding'}<label class="field"
					>Expected share lower by<span class="flex items-center gap-2"
						><input class="input !w-20" type="number" min="2" max="50" bind:value={harder} /> %</span
					></label
				>
			{:else if way === 'parallel'}<p class="small">Items of this family are always left out.</p>
				<label class="field"
					>Nothing that this class has seen<select class="input" bind:value={klass}
						><option value="">no class named</option>{#each classes as c (c.id)}<option value={c.id}>{c.title}</option
							>{/each}</select
					></label
				>
				{#if person}<p class="text-[13.5px]">
						Nothing that {staff.name(person.name, 0)} has seen
						<button type="button" class="btn quiet !min-h-[26px]" onclick={() => (person = null)}>× leave out</button>
					</p>
				{:else if staff.may('people.read')}<PersonPick
						kind="student"
						label="Nothing that this student has seen"
						onpick={(p) => (person = p)}
					/>{/if}{/if}
			{#if problem}<p class="border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
			<div class="mt-auto flex justify-end gap-2">
				<button type="button" class="btn quiet" onclick={onleave}>Leave it</button><button
					class="btn primary"
					disabled={busy}>{busy ? 'Looking for items …' : 'Make a draft'}</button
				>
			</div>
		</div>
	</div>
</form>
