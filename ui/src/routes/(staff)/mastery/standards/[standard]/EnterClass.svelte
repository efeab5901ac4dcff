<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Select from '$lib/design/Select.svelte';
	import { staff } from '$lib/state/staff.svelte';

	/** Scores or observations of a whole class on the standard, entered at once; students without points are left out. */
	let { page, onchange }: { page: Schemas['StandardPage']; onchange: () => void } = $props();
	let open = $state(false);
	let kind = $state('score');
	let what = $state('');
	let on = $state('');
	let possible = $state(4);
	let points = $state<Record<string, string>>({});
	let problem = $state('');
	let told = $state('');
	const students = $derived(
		[...page.students].sort((a, b) => staff.name(a.name, a.alias).localeCompare(staff.name(b.name, b.alias)))
	);

	function begin() {
		[open, what, on, points, problem, told] = [true, '', page.today, {}, '', ''];
	}
	async function go(event: Event) {
		event.preventDefault();
		const some = Object.entries(points).filter(([, value]) => String(value ?? '').trim() !== '');
		const bad = some.find(([, value]) => Number.isNaN(Number(value)));
		if (bad) {
			problem = `“${bad[1]}” is no number of points.`;
			return;
		}
		try {
			const n = await body(
				api.POST('/api/mastery/evidence', {
					body: {
						standard: page.standard,
						kind,
						what,
						on: on || null,
						possible,
						points: some.map(([person, value]) => ({ person, earned: Number(value) }))
					}
				})
			);
			[open, told] = [false, `Entered for ${n === 1 ? '1 student' : `${n} students`}.`];
			onchange();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<h3 class="mt-4 text-[14px] font-semibold">Evidence that no test gave</h3>
{#if !open}
	<p class="small">
		Exit slips, work at the board, a score from elsewhere.
		<Button class="min-h-[26px]" onclick={begin}>Enter for the class</Button>
		<span role="status">{told}</span>
	</p>
{:else}
	<form
		class="mt-1 rounded-[4px] border border-relief3 bg-wash px-3 py-2 text-[13.5px]"
		onsubmit={go}
		aria-label="Evidence of the class"
	>
		<div class="flex flex-wrap items-end gap-2">
			<label class="field"
				>Kind<Select
					bind:value={kind}
					choices={[
						{ value: 'score', label: 'score' },
						{ value: 'observation', label: 'observation' }
					]}
				/></label
			>
			<label class="field min-w-[180px] flex-1"
				>What it was<input class="input" bind:value={what} maxlength="120" required /></label
			>
			<DateField label="Day of the work" bind:value={on} required />
			<label class="field"
				>Points, most<input class="input w-[80px]" type="number" min="0.5" step="any" bind:value={possible} /></label
			>
		</div>
		<ul class="mt-2 grid gap-x-4 gap-y-1 sm:grid-cols-2">
			{#each students as s (s.person)}<li>
					<label class="flex items-center gap-2"
						><span class="flex-1">{staff.name(s.name, s.alias)}</span><input
							class="input w-[64px]"
							inputmode="decimal"
							bind:value={points[s.person]}
						/></label
					>
				</li>{/each}
		</ul>
		<div class="mt-2 flex gap-2">
			<Button type="submit" kind="primary">Enter</Button><Button onclick={() => (open = false)}>Cancel</Button>
		</div>
		{#if problem}<p class="mt-1 text-vermilion" role="alert">{problem}</p>{/if}
	</form>
{/if}
