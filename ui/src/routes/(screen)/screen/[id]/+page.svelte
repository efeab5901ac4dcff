<script lang="ts">
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import LiveBars from '$lib/parts/LiveBars.svelte';
	import Question from '$lib/sitting/question/Question.svelte';
	import Stimulus from '$lib/sitting/question/Stimulus.svelte';
	import { onMount } from 'svelte';

	/** What the class sees on the wall: the question, how many answered, then the answers. Never a name. */
	const id = page.params.id ?? '';
	let shown = $state<Schemas['LiveScreen'] | null>(null);
	let problem = $state('');

	async function load() {
		try {
			shown = await body(api.GET('/api/live/{round_id}/screen', { params: { path: { round_id: id } } }));
			problem = '';
		} catch (error) {
			problem = said(error);
		}
	}

	onMount(() => {
		const events = new EventSource(`/api/live/${id}/events`);
		events.addEventListener('open', () => void load());
		events.addEventListener('moved', () => void load());
		return () => events.close();
	});
</script>

<svelte:head><title>Live round</title></svelte:head>

<main class="flex min-h-screen flex-col bg-sheet px-12 py-8 text-[28px]">
	{#if problem}<p role="alert">{problem}</p>{/if}
	{#if shown}
		<header class="mb-6 flex items-baseline gap-6 border-b border-hair pb-3 text-[22px] text-ink2">
			<span class="flex-1">{shown.klass}</span>
			{#if shown.question}<span>Question {shown.question.number}{shown.question.again ? ', once more' : ''}</span>{/if}
			<span class="tabular-nums"><b class="text-[34px] text-ink">{shown.answered}</b> of {shown.joined} answered</span>
		</header>
		{#if shown.ended}<h1 class="m-auto text-[44px]">This round is over.</h1>
		{:else if !shown.question}
			<div class="m-auto text-center">
				<h1 class="text-[40px]">Join with the class code</h1>
				<p class="mt-4 font-mono text-[96px] leading-none tracking-[0.14em]">{shown.code}</p>
				<p class="mt-6 text-ink2">{shown.joined} {shown.joined === 1 ? 'student is' : 'students are'} here.</p>
			</div>
		{:else}
			<h1 class="sr-only">Question {shown.question.number}</h1>
			<div class="grid flex-1 items-start gap-12 {shown.bars.length ? 'grid-cols-2' : ''}">
				<div class="screen">
					{#if shown.question.words}<p class="text-[40px] leading-tight">{shown.question.words}</p>{/if}
					{#if shown.question.letters.length && !shown.bars.length}<p class="mt-8 text-[64px] tracking-[0.4em]">
							{shown.question.letters.join(' ')}
						</p>{/if}
					{#if shown.question.stimulus}<Stimulus stimulus={shown.question.stimulus} />{/if}
					{#if shown.question.shown}<div inert>
							<Question shown={shown.question.shown} answer="" name="screen" onanswer={() => {}} />
						</div>{/if}
				</div>
				{#if shown.bars.length}
					<div class="flex flex-col gap-8">
						{#if shown.before.length}<LiveBars bars={shown.before} title="Before" large />{/if}
						<LiveBars bars={shown.bars} title={shown.before.length ? 'After' : 'Answers'} large />
					</div>
				{/if}
			</div>
		{/if}
	{/if}
</main>

<style>
	.screen {
		zoom: 1.5;
	}
</style>
