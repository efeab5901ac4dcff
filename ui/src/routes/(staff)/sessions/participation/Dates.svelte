<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import DateField from '$lib/design/DateField.svelte';
	import Select from '$lib/design/Select.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { day } from '$lib/words/show';

	/** Other dates of the window for a school or a grade, and ending it early there. */
	let { window }: { window: { id: string; start: string; end: string } } = $props();
	let lines = $state<Schemas['WindowDatesLine'][]>([]);
	let schools = $state<Schemas['Ref'][]>([]);
	let problem = $state('');
	let done = $state<Schemas['EndedEarly'] | null>(null);
	let open = $state<'' | 'dates' | 'early'>('');
	let wish = $state({ school: '', grade: '', start: '', end: '', why: '' });
	let grades = $state<string[]>([]);

	async function load() {
		try {
			lines = await body(api.GET('/api/participation/dates', { params: { query: { window: window.id } } }));
			grades = (await body(api.GET('/api/people/overview'))).grades.map((g) => g.grade);
			schools = (await body(api.GET('/api/year')))?.schools ?? [];
		} catch (error) {
			problem = said(error);
		}
	}
	$effect(() => void load());

	function begin(which: 'dates' | 'early') {
		open = open === which ? '' : which;
		wish = { school: '', grade: '', start: window.start, end: window.end, why: '' };
	}

	async function save(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		const whose = { window: window.id, school: wish.school || null, grade: wish.grade };
		try {
			if (open === 'dates')
				await api.POST('/api/participation/dates', {
					body: { ...whose, person: null, start: wish.start, end: wish.end, why: wish.why }
				});
			else
				done = await body(
					api.POST('/api/participation/end-early', { body: { ...whose, last: wish.end, why: wish.why } })
				);
			open = '';
			await load();
			await invalidate('bildung:participation');
		} catch (error) {
			problem = said(error);
		}
	}

	async function drop(id: string) {
		try {
			await api.DELETE('/api/participation/dates/{dates_id}', { params: { path: { dates_id: id } } });
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<section class="sheet px-4 py-3" aria-labelledby="own-dates">
	<h2 id="own-dates" class="mb-1">Dates</h2>
	<p class="small mb-2">{day(window.start)} to {day(window.end)}, except:</p>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#each lines as line (line.id)}
		<div class="flex items-center gap-3 border-t border-hair2 py-1.5 text-[14px]">
			<span class="flex-1"
				><b class="font-semibold">{line.whose}</b>: {day(line.start)} to {day(line.end)}{#if line.why}<span
						class="small block leading-tight">{line.why}</span
					>{/if}</span
			>
			<Ask
				label="Remove"
				quiet
				question="Remove these dates? The dates of the window apply again."
				yes="Remove"
				onyes={() => drop(line.id)}
			/>
		</div>
	{:else}<p class="small mb-2">No exceptions.</p>{/each}
	{#if done}
		<p class="mt-1.5 text-[14px]" role="status">
			{done.finding}
			{done.untested
				.slice(0, 8)
				.map((u) => `${u.name} (${u.test})`)
				.join(', ')}{done.untested.length > 8 ? ` and ${done.untested.length - 8} more` : ''}
		</p>
	{/if}
	<div class="mt-2 flex gap-2">
		<Button aria-expanded={open === 'dates'} onclick={() => begin('dates')}>Add dates</Button>
		<Button aria-expanded={open === 'early'} onclick={() => begin('early')}>End early</Button>
	</div>
	{#if open}
		<form class="mt-3 grid grid-cols-2 gap-2" onsubmit={save}>
			<label class="field"
				>School<Select
					bind:value={wish.school}
					choices={[{ value: '', label: 'all schools' }, ...schools.map((s) => ({ value: s.id, label: s.name }))]}
				/></label
			>
			<label class="field"
				>Grade<Select
					bind:value={wish.grade}
					choices={[{ value: '', label: 'all grades' }, ...grades.map((g) => ({ value: g, label: g }))]}
				/></label
			>
			{#if open === 'dates'}
				<DateField label="First day" bind:value={wish.start} required />
				<DateField label="Last day" bind:value={wish.end} required />
			{:else}
				<DateField label="Last day of testing" bind:value={wish.end} min={window.start} max={window.end} required />
			{/if}
			<label class="field"
				>Reason<input class="input" maxlength="300" required={open === 'early'} bind:value={wish.why} /></label
			>
			{#if open === 'early'}<p class="small col-span-2">
					Sessions after that day are canceled with this reason. The tests they would have given stay untested.
				</p>{/if}
			<div class="col-span-2 flex justify-end gap-2">
				<Button onclick={() => (open = '')}>Cancel</Button>
				<Button type="submit" kind="primary">{open === 'early' ? 'End early' : 'Save'}</Button>
			</div>
		</form>
	{/if}
</section>
