<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';

	/** One of the sessions that give the same test. */
	let { others, value = $bindable() }: { others: Schemas['OtherSession'][]; value: string } = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
</script>

<RadioGroup
	label="Sessions of this test"
	class="max-h-[46vh] flex-col overflow-auto"
	bind:value
	choices={others.map((o) => ({
		value: o.id,
		label: `${o.klass}, ${dateTime(o.start, zone)}`,
		more: `${o.room ? `${o.room}, ` : ''}${o.students} students`
	}))}
/>
