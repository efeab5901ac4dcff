<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';

	/** A measure: a number on a scale, or one of several ordered levels. */
	let { measures, onadded }: { measures: Schemas['MeasureLine'][]; onadded: () => void } = $props();
	let kind = $state<'number' | 'levels'>('number');
	let wish = $state({
		name: '',
		subject: '',
		low: '',
		high: '',
		decimals: '0',
		levels: '',
		falling: false,
		part_of: ''
	});
	let problem = $state('');
	const wholes = $derived(measures.filter((m) => !m.own && !m.part_of && m.subject === wish.subject.trim()));

	async function add(event: Event) {
		event.preventDefault();
		try {
			await body(
				api.POST('/api/growth/measures', {
					body: {
						name: wish.name,
						subject: wish.subject,
						low: kind === 'number' ? Number(wish.low || 'NaN') : 1,
						high: kind === 'number' ? Number(wish.high || 'NaN') : 1,
						decimals: Number(wish.decimals),
						levels:
							kind === 'levels'
								? wish.levels
										.split(/[,\n]/)
										.map((l) => l.trim())
										.filter(Boolean)
								: [],
						falling: wish.falling,
						part_of: wish.part_of
					}
				})
			);
			onadded();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Panel label="Add a measure" class="mb-3 px-5 py-4">
	<Notice text={problem} onclose={() => (problem = '')} />
	<form class="flex flex-wrap items-end gap-3" onsubmit={add}>
		<ToggleGroup
			label="What a score is"
			bind:value={kind}
			choices={[
				{ value: 'number', label: 'A number' },
				{ value: 'levels', label: 'An ordered level' }
			]}
		/>
		<label class="field">Name<input class="input" required maxlength="80" bind:value={wish.name} /></label>
		<label class="field">Subject<input class="input" required maxlength="40" bind:value={wish.subject} /></label>
		{#if kind === 'number'}
			<label class="field"
				>Lowest score<input class="input w-[110px]" required inputmode="decimal" bind:value={wish.low} /></label
			>
			<label class="field"
				>Highest score<input class="input w-[110px]" required inputmode="decimal" bind:value={wish.high} /></label
			>
			<label class="field"
				>Decimals<input class="input w-[80px]" inputmode="numeric" bind:value={wish.decimals} /></label
			>
			<Checkbox bind:checked={wish.falling} class="pb-1">Less is better, as with errors or seconds</Checkbox>
		{:else}
			<label class="field min-w-[340px] flex-1"
				>Levels, lowest first, with commas between<input
					class="input"
					required
					placeholder="Blue, Green, Yellow, Red"
					bind:value={wish.levels}
				/></label
			>
		{/if}
		{#if wholes.length}<label class="field"
				>Skill of<Select
					bind:value={wish.part_of}
					choices={[{ value: '', label: 'no other measure' }, ...wholes.map((m) => ({ value: m.id, label: m.name }))]}
				/></label
			>{/if}
		<Button type="submit" kind="primary">Add</Button>
	</form>
</Panel>
