<script lang="ts">
	import { Slider } from 'bits-ui';

	/** A number on a line. */
	let {
		value = $bindable(),
		min,
		max,
		step,
		label,
		says,
		disabled = false,
		onchange = () => {}
	}: {
		value: number;
		min: number;
		max: number;
		step: number;
		label: string;
		/** The number in words, as it is read aloud. */
		says?: string;
		disabled?: boolean;
		onchange?: (value: number) => void;
	} = $props();
</script>

<Slider.Root
	type="single"
	bind:value={() => value, (to) => ((value = to), onchange(to))}
	{min}
	{max}
	{step}
	{disabled}
	class="slider"
>
	<span class="line"><Slider.Range class="range" /></span>
	<Slider.Thumb index={0} class="knob" aria-label={label} aria-valuetext={says} />
</Slider.Root>
