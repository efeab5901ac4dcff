<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Sheet from '$lib/sitting/question/Sheet.svelte';
	import { moment } from '$lib/words/show';
	import Told from './Told.svelte';

	/** Results as a student or family reads them: a sentence, by standard, then each question with the own answer and what was told of it. */
	let { review }: { review: Schemas['ReviewOut'] } = $props();
</script>

<h1 class="text-[24px]">{review.sentence}</h1>
<p class="mt-1 text-[16px] text-ink2">{review.title}</p>
{#if review.corrected_at}<p class="mt-2 border-l-4 border-petrol pl-3" role="status">
		Corrected on {moment(review.corrected_at)}.
	</p>{/if}
{#if review.standards.length}<ul class="mt-4 grid gap-2">
		{#each review.standards as standard (standard.says)}
			<li class="grid gap-x-4 border-b border-hair pb-2 min-[480px]:grid-cols-[1fr_auto]">
				<span>{standard.says}</span><b>{standard.earned} of {standard.points}</b>
				<span class="flex h-[8px] border border-ink2 min-[480px]:col-span-2" aria-hidden="true"
					><i class="bg-relief4" style:width="{(100 * standard.earned) / standard.points}%"></i></span
				>
			</li>
		{/each}
	</ul>{/if}
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
