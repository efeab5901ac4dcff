<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Sheet from '$lib/sitting/question/Sheet.svelte';
	import Told from './Told.svelte';

	/** Every question with the own answer and what was right. */
	let { review }: { review: Schemas['ReviewOut'] } = $props();
</script>

<h1 class="text-[24px]">{review.sentence}</h1>
<p class="mt-1 text-[16px] text-ink2">{review.title}</p>
{#each review.questions as q, at (q.id)}
	{@const told = review.told[at]}
	<section class="mt-6 border-t border-hair pt-5" aria-label="Question {q.number}">
		<Sheet
			shown={q.shown}
			stimulus={at && JSON.stringify(review.questions[at - 1]?.stimulus) === JSON.stringify(q.stimulus)
				? null
				: q.stimulus}
			answer={q.answer}
			name="r{q.id}"
			number="{q.number}."
			locked
			onanswer={() => {}}
		>
			{#snippet after()}{#if told}<Told {told} />{/if}{/snippet}
		</Sheet>
	</section>
{/each}
