<script lang="ts">
	import { TimeField } from 'bits-ui';
	import { formats } from '$lib/words/formats.svelte';
	import { clockOf, timeOf } from './dates';

	/** A time of day, as the district writes it. */
	let {
		label,
		value = $bindable(),
		required = false,
		disabled = false,
		onchange = () => {}
	}: {
		label: string;
		/** 08:30 */
		value: string;
		required?: boolean;
		disabled?: boolean;
		onchange?: (value: string) => void;
	} = $props();

	function set(to: { toString(): string } | undefined) {
		const text = clockOf(to);
		if (text === (value ?? '')) return;
		value = text;
		onchange(text);
	}
</script>

<div class="field">
	<TimeField.Root
		bind:value={() => timeOf(value), set}
		locale={formats.locale}
		hourCycle={formats.hours}
		granularity="minute"
		hideTimeZone
		{required}
		{disabled}
	>
		<TimeField.Label>{label}</TimeField.Label>
		<TimeField.Input class="input dated {disabled ? 'off' : ''}">
			{#snippet children({ segments })}
				{#each segments as { part, value }, at (at)}
					<TimeField.Segment {part} class={part === 'literal' ? 'text-ink2' : 'segment'}>{value}</TimeField.Segment>
				{/each}
			{/snippet}
		</TimeField.Input>
	</TimeField.Root>
</div>
