<script lang="ts">
	import type { PartOf } from './answer';

	/** A line to write on: a number or a few words. */
	let { part, value, onput }: { part: PartOf<'entry'>; value: string; onput: (text: string) => void } = $props();
</script>

<label class="block text-[16px] text-ink2">
	{part.numeric ? 'Your answer, a number' : 'Your answer'}
	<span class="flex items-center gap-3">
		<input
			class="input min-h-[54px] text-[24px]"
			style:max-width="{Math.max(part.width, 8) + 4}ch"
			type="text"
			inputmode={part.numeric ? 'decimal' : 'text'}
			autocomplete="off"
			spellcheck="false"
			maxlength="200"
			{value}
			oninput={(e) => onput(e.currentTarget.value.trim() ? e.currentTarget.value : '')}
		/>
		{#if part.unit}<span class="text-[22px] text-ink">{part.unit}</span>{/if}
	</span>
</label>
