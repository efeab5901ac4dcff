<script lang="ts">
	/** A cell with a number of seats or devices. */
	let {
		label,
		value = $bindable(),
		least = 1,
		disabled = false
	}: { label: string; value: number; least?: number; disabled?: boolean } = $props();
</script>

<td
	><input
		class="input small-input w-[64px]"
		type="number"
		min={least}
		max="500"
		aria-label={label}
		bind:value
		{disabled}
	/></td
>
