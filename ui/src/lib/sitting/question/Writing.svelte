<script lang="ts">
	import type { PartOf } from './answer';

	/** Writing of some length; how much room is left is said near the end. */
	let { part, value, onput }: { part: PartOf<'writing'>; value: string; onput: (text: string) => void } = $props();
	const words = $derived(value.split(/\s+/).filter(Boolean).length);
	const left = $derived(part.longest - value.length);
</script>

<label class="block text-[16px] text-ink2">
	{part.beside ? 'Your reason' : 'Your answer'}
	<textarea
		class="input min-h-0 text-[18px] leading-relaxed"
		rows={part.lines}
		maxlength={part.longest}
		{value}
		oninput={(e) => onput(e.currentTarget.value.trim() ? e.currentTarget.value : '')}></textarea>
</label>
{#if !part.beside}<p class="mt-1 text-[15px] text-ink2">
		{words}
		{words === 1 ? 'word' : 'words'}{left < 200 ? `; ${left} characters left` : ''}
	</p>{/if}
