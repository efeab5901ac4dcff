<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Checkboxes from '$lib/design/Checkboxes.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Popover from '$lib/design/Popover.svelte';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { Asked } from '../asked';

	/** Of whom, which standards, which days, and in what order. */
	let {
		page,
		asked,
		go,
		order = $bindable(),
		by = $bindable(),
		shares = $bindable(),
		wide
	}: {
		page: Schemas['GridPage'];
		asked: Asked;
		go: (change: Partial<Asked>) => void;
		order: 'need' | 'name' | 'change';
		by: 'framework' | 'need';
		/** Share and points in every cell. */
		shares: boolean;
		/** Cells are too small for them. */
		wide: boolean;
	} = $props();
	const NOBODY = { klass: '', group: '', school: '', grade: '', person: [], domain: '' };
	const choices = $derived([
		...page.classes.map((c) => ({ value: `klass ${c.id}`, label: c.title, more: c.school })),
		...page.scopes.map((s, at) => ({
			value: `scope ${at}`,
			label: s.label,
			more: s.group ? `group, ${s.subject}` : s.subject
		}))
	]);
	const chosen = $derived(
		page.class_id
			? `klass ${page.class_id}`
			: `scope ${page.scopes.findIndex(
					(s) =>
						(s.group ?? '') === asked.group &&
						(s.school ?? '') === asked.school &&
						s.grade === (asked.group ? '' : asked.grade)
				)}`
	);
	function choose(value: string) {
		const [kind, id = ''] = value.split(' ');
		if (kind === 'klass') return go({ ...NOBODY, subject: '', klass: id });
		const to = page.scopes[Number(id)];
		if (to) go({ ...NOBODY, subject: to.subject, group: to.group ?? '', school: to.school ?? '', grade: to.grade });
	}
	const some = $derived(asked.person.length > 0);
	let picking = $state(false);
	let picked = $state<string[]>([]);
	const students = $derived(page.rows.map((r) => ({ value: r.person, label: staff.name(r.name, r.alias) })));
</script>

<div class="mb-2 flex flex-wrap items-end gap-3">
	<label class="field min-w-[190px]"
		>Students<Select value={chosen} {choices} placeholder={page.title} onchange={(to) => to && choose(to)} /></label
	>
	{#if some}<Button onclick={() => go({ person: [] })}>All students again</Button>
	{:else if students.length > 1}<Popover bind:open={picking} label="Some students only">
			{#snippet shown()}Some only{/snippet}
			<div class="grid max-h-[300px] overflow-auto"><Checkboxes bind:values={picked} choices={students} /></div>
			<Button
				class="mt-2"
				kind="primary"
				disabled={!picked.length}
				onclick={() => {
					picking = false;
					go({ person: picked, subject: page.subject });
				}}>Show {picked.length || 'them'}</Button
			>
		</Popover>{/if}
	{#if page.domains.length > 1 || page.domain}<label class="field max-w-[200px]"
			>Domain<Select
				value={page.domain}
				choices={[{ value: '', label: 'all domains' }, ...page.domains.map((d) => ({ value: d, label: d }))]}
				onchange={(domain) => go({ domain })}
			/></label
		>{/if}
	<DateField label="Evidence from" value={asked.first} onchange={(first) => go({ first })} />
	<DateField label="to" value={asked.last} onchange={(last) => go({ last })} />
	<DateField label="Changed since" value={asked.since || page.since} onchange={(since) => go({ since })} />
	<div>
		<ToggleGroup
			label="Order of students"
			bind:value={order}
			choices={[
				{ value: 'need', label: 'By need' },
				{ value: 'change', label: 'By change' },
				{ value: 'name', label: 'By name' }
			]}
		/>
	</div>
</div>
<div class="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
	<Checkbox checked={by === 'need'} onchange={(on) => (by = on ? 'need' : 'framework')}>Standards by need</Checkbox>
	{#if !wide}<Checkbox bind:checked={shares}>Share and points</Checkbox>{/if}
	<Checkbox checked={asked.priority === 'yes'} onchange={(on) => go({ priority: on ? 'yes' : '' })}
		>Priority standards</Checkbox
	>
	{#if page.guide}<Checkbox checked={asked.taught === 'yes'} onchange={(on) => go({ taught: on ? 'yes' : '' })}
			>Taught so far</Checkbox
		>{:else if page.grade}<span class="small">No pacing guide, so what was taught cannot be told.</span>{/if}
	{#if page.empty || asked.whole}<Checkbox
			checked={asked.whole === 'yes'}
			onchange={(on) => go({ whole: on ? 'yes' : '' })}>{page.empty} without evidence</Checkbox
		>{/if}
</div>
