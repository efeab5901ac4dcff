<script lang="ts">
	import Question from '$lib/sitting/question/Question.svelte';
	import Stimulus from '$lib/sitting/question/Stimulus.svelte';
	import type { Schemas } from '$lib/api/client';
	import { scrollable } from './scrollable';

	/** A question with its stimulus as the student had it, to look at; where they wrote is left out. */
	let {
		shown,
		stimulus,
		answer = '',
		name,
		height
	}: {
		shown: Schemas['Shown'];
		stimulus: Schemas['StimulusView'] | null;
		answer?: string;
		name: string;
		/** Of the two together, as CSS says it. */
		height: string;
	} = $props();
</script>

<div {@attach scrollable} class="overflow-auto text-[15px]" style:max-height={height}>
	{#if stimulus}<Stimulus {stimulus} />{/if}
	<div inert class="asked">
		<Question {shown} {answer} {name} locked={answer !== ''} onanswer={() => {}} />
	</div>
</div>

<style>
	.asked :global(label:has(textarea)),
	.asked :global(label:has(textarea) + p) {
		display: none;
	}
</style>
