<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { day, fieldsOf, time } from '$lib/words/show';

	/** Tests of one student by day, in words that need no explaining. */
	let {
		occasions,
		zone,
		onlook
	}: { occasions: Schemas['Occasion'][]; zone: string; onlook?: (session: string) => void } = $props();
	const WORDS: Record<string, string> = {
		now: 'open now',
		ahead: 'scheduled',
		sat: 'submitted',
		resting: 'to be continued on another day',
		missed: 'missed; a makeup will follow',
		untaken: 'not taken',
		excused: 'not needed',
		canceled: 'canceled'
	};
	const FILL: Record<string, string> = {
		sat: 'var(--color-relief5)',
		now: 'var(--color-relief3)',
		ahead: 'var(--color-sheet)',
		resting: 'var(--color-relief3)',
		missed: 'var(--color-relief1)',
		untaken: 'var(--color-hair2)',
		excused: 'var(--color-hair2)',
		canceled: 'var(--color-hair2)'
	};
	const date = (iso: string) => fieldsOf(iso, zone).day;
</script>

{#if occasions.length}
	<ul class="sheet divide-y divide-hair2">
		{#each occasions as o (o.session_id)}
			<li class="flex flex-wrap items-start gap-x-3 px-4 py-3">
				<span
					class="mt-1 block size-4 flex-none rounded-[2px] border border-ink2"
					style:background={FILL[o.state]}
					aria-hidden="true"
				></span>
				<span class="min-w-[180px] flex-1"
					><b class="font-semibold {o.state === 'canceled' ? 'text-ink2 line-through' : ''}">{o.title}</b><span
						class="block text-[15px] text-ink2"
						>{day(date(o.start))}, {o.due
							? `${time(o.start, zone)}, due ${day(date(o.due))}, ${time(o.due, zone)}`
							: `${time(o.start, zone)} to ${time(o.end, zone)}`}{o.room ? `, room ${o.room}` : ''}</span
					>{#if o.was}<span class="notch mt-1 block text-[15px]">{o.was}</span>{/if}{#if o.instructions}<span
							class="mt-1 block text-[15px] whitespace-pre-line">{o.instructions}</span
						>{/if}</span
				>
				<span class="max-[420px]:w-full max-[420px]:pl-7 min-[421px]:text-right text-[15px]"
					>{WORDS[o.state]}{#if o.news}<b class="block font-semibold">{o.news}</b>{/if}{#if o.review && onlook}<button
							class="word block min-h-[32px] w-full text-right"
							onclick={() => onlook(o.session_id)}>see the results</button
						>{/if}</span
				>
			</li>
		{/each}
	</ul>
{/if}
