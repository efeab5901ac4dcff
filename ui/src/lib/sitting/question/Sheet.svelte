<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import type { Shown } from './answer';
	import { leadingPassage } from './passage';
	import Question from './Question.svelte';
	import Stimulus from './Stimulus.svelte';

	/** A question with what it is about, side by side where there is room. Used for sitting and for every preview. */
	let {
		shown,
		stimulus,
		answer,
		name,
		number = '',
		crossing = false,
		locked = false,
		onanswer,
		before,
		after
	}: {
		shown: Shown;
		stimulus: Schemas['StimulusShown'] | null;
		answer: string;
		name: string;
		number?: string;
		crossing?: boolean;
		locked?: boolean;
		onanswer: (answer: string) => void;
		before?: import('svelte').Snippet;
		after?: import('svelte').Snippet;
	} = $props();
	// a passage that stands in the text itself, as in items imported without a stimulus
	const cut = $derived(stimulus === null ? leadingPassage(shown.body) : null);
	const asked = $derived(cut ? { ...shown, body: cut.question } : shown);
	const split = $derived(stimulus !== null || cut !== null);
</script>

<div class="@container w-full">
	<div class="mx-auto grid w-full content-start gap-x-10 {split ? 'max-w-[1120px] @3xl:grid-cols-2' : 'max-w-[760px]'}">
		{#if stimulus}<div class="mb-5 min-w-0 text-[18px] leading-relaxed"><Stimulus {stimulus} /></div>
		{:else if cut}<div class="mb-5 min-w-0 text-[18px] leading-relaxed">
				<Question
					shown={{ body: cut.passage, parts: [], tools: [] }}
					answer=""
					name="{name}-text"
					onanswer={() => {}}
				/>
			</div>{/if}
		<div class="min-w-0">
			{@render before?.()}
			<div inert={locked}><Question shown={asked} {answer} {name} {number} {crossing} {locked} {onanswer} /></div>
			{@render after?.()}
		</div>
	</div>
</div>
