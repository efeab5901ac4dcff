<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import type { Schemas } from '$lib/api/client';
	import { address } from './address.svelte';

	/** The numbers that flags rest on, changed in place; they stand in the address and hold for this view alone. */
	let { limits, onleave }: { limits: Schemas['LimitOut'][]; onleave: () => void } = $props();
	const WORDS: Record<string, string> = {
		very_hard: 'very hard below',
		very_easy: 'very easy above',
		wrong_key_r: 'wrong key: option r (rest) at least',
		wrong_key_gap: 'wrong key: better than the key by',
		second_answer_share: 'second answer: chosen by at least',
		weak_r: 'weak: r (rest) surely below',
		idle_share: 'idle option: surely below',
		omitted_share: 'often omitted above',
		not_reached_share: 'often not reached above',
		alpha_gain: 'raises alpha if dropped by more than',
		least_option: 'students behind an option',
		least_description: 'students to describe',
		least_relation: 'students for correlations',
		small_sample: 'small sample below'
	};
	const whole = (name: string) => name.startsWith('least_') || name === 'small_sample';
	const percent = (name: string) =>
		!whole(name) && !['wrong_key_r', 'wrong_key_gap', 'weak_r', 'alpha_gain'].includes(name);

	function change(name: string, text: string) {
		const value = percent(name) ? Number(text) / 100 : Number(text);
		const usual = limits.find((l) => l.name === name)?.usual;
		const others = address.all('limit').filter((l) => !l.startsWith(`${name}:`));
		return address.set({
			limit: text === '' || value === usual ? others : [...others, `${name}:${+value.toFixed(4)}`]
		});
	}
</script>

<Panel label="Limits of the flags" class="mb-3 p-3">
	<div class="mb-2 flex items-baseline gap-3">
		<h2 class="flex-1">Limits of the flags, for this view</h2>
		<Button kind="quiet" class="min-h-[26px]" onclick={() => address.set({ limit: null })}>Reset</Button><Button
			kind="quiet"
			class="min-h-[26px]"
			onclick={onleave}>Close</Button
		>
	</div>
	<div class="grid grid-cols-2 gap-x-8 gap-y-1 text-[13px] xl:grid-cols-3">
		{#each limits as l (l.name)}
			<label class="flex min-h-[28px] items-center gap-2"
				><span class="flex-1 {l.value === l.usual ? 'text-ink2' : 'font-semibold'}">{WORDS[l.name] ?? l.name}</span
				><input
					class="input mt-0 min-h-[26px] w-[76px] text-right"
					type="number"
					min="0"
					max={percent(l.name) ? 100 : whole(l.name) ? 10000 : 1}
					step={percent(l.name) || whole(l.name) ? 1 : 0.005}
					value={percent(l.name) ? Math.round(l.value * 1000) / 10 : l.value}
					onchange={(e) => change(l.name, e.currentTarget.value)}
				/><span class="small w-3">{percent(l.name) ? '%' : ''}</span></label
			>
		{/each}
	</div>
</Panel>
