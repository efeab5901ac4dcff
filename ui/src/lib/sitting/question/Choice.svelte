<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Markup from '$lib/parts/Markup.svelte';
	import type { PartOf } from './answer';

	/** One of several, or several of them. */
	let {
		part,
		name,
		value,
		crossing = false,
		locked = false,
		onput
	}: {
		part: PartOf<'choice'>;
		name: string;
		value: string;
		crossing?: boolean;
		locked?: boolean;
		onput: (text: string) => void;
	} = $props();
	let crossed = $state<Record<string, boolean>>({});
	const chosen = $derived(value ? value.split('+') : []);
	const full = $derived(part.most > 1 && chosen.length >= part.most);
	const lettered = $derived(part.options.every((o) => o.id.length === 1));
	/** By place: a form may show options in another order, and nobody is to see that. */
	const letter = (at: number) => String.fromCharCode(65 + at);

	function toggle(id: string, on: boolean) {
		const next = on ? [...chosen, id] : chosen.filter((c) => c !== id);
		onput(
			part.options
				.map((o) => o.id)
				.filter((o) => next.includes(o))
				.join('+')
		);
	}
</script>

<fieldset>
	<legend class={part.most === 1 ? 'sr-only' : 'text-[16px] text-ink2'}>
		{part.most === 1 ? 'Choose one' : part.most ? `Choose up to ${part.most}` : 'Choose all that apply'}
	</legend>
	{#each part.options as option, at (option.id)}
		{@const on = chosen.includes(option.id)}
		<label
			class="my-2.5 flex min-h-[52px] cursor-pointer items-center gap-4 rounded-md border-[1.5px] px-4 py-2.5 has-focus-visible:outline-2 has-focus-visible:outline-offset-2 has-focus-visible:outline-petrol {on
				? 'border-petrol bg-wash shadow-[inset_5px_0_0_var(--color-petrol)]'
				: 'border-edge-soft hover:bg-paper'}"
		>
			{#if part.most === 1}
				<input
					class="sr-only"
					type="radio"
					{name}
					value={option.id}
					checked={on}
					disabled={locked}
					onchange={() => onput(option.id)}
				/>
			{:else}
				<input
					class="size-5 flex-none accent-petrol"
					type="checkbox"
					checked={on}
					disabled={locked || (full && !on)}
					onchange={(e) => toggle(option.id, e.currentTarget.checked)}
				/>
			{/if}
			{#if lettered}<b class="w-6 flex-none font-semibold text-ink2">{letter(at)}</b>{/if}
			<span class="min-w-0 flex-1 {crossed[option.id] ? 'line-through opacity-50' : ''}"
				><Markup html={option.html} inline /></span
			>
			{#if crossing && !locked}<Button
					kind="quiet"
					class="min-h-[36px] flex-none px-2 text-[14px]"
					aria-pressed={!!crossed[option.id]}
					aria-label="Cross out {lettered ? letter(at) : 'this one'}"
					onclick={(e) => (e.preventDefault(), (crossed[option.id] = !crossed[option.id]))}
					>{crossed[option.id] ? 'Bring back' : 'Cross out'}</Button
				>{/if}
		</label>
	{/each}
</fieldset>
{#if value && !locked}<Button kind="quiet" class="px-0 text-[15px]" onclick={() => onput('')}>Clear answer</Button>{/if}
