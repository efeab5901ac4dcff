<script lang="ts">
	import { goto } from '$app/navigation';
	import { api, body, Problem, said, tokens, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Sheet from '$lib/sitting/question/Sheet.svelte';
	import Told from '$lib/sitting/Told.svelte';
	import { onMount } from 'svelte';

	/** A student's device in a live round: it follows the teacher. */
	const HERE = 15_000;
	let shown = $state<Schemas['LiveForStudent'] | null>(null);
	let problem = $state('');
	let draft = $state('');
	let sent = $state(false);
	let way = $state<'school' | 'home'>(sessionStorage.getItem('bildung.way') === 'home' ? 'home' : 'school');
	let at = '';
	const question = $derived(shown?.question ?? null);

	async function look() {
		try {
			const found = await body(api.GET('/api/own/live', { params: { query: { way } } }));
			if (found.question && found.question.id !== at) [draft, at] = [found.answer, found.question.id];
			sent = !!found.answer && found.answer === draft;
			shown = found;
			problem = '';
		} catch (error) {
			if (error instanceof Problem && error.status === 401) await goto('/');
			else problem = said(error);
		}
	}

	async function send() {
		if (!question || !draft) return;
		try {
			await api.POST('/api/own/live', { body: { question: question.id, answer: draft, way } });
			[sent, problem] = [true, ''];
		} catch (error) {
			problem = error instanceof Problem ? error.detail : said(error);
			await look();
		}
	}

	/** One tap answers where there is one thing to choose. */
	function choose(answer: string) {
		if (!question || question.closed) return;
		[draft, sent] = [answer, false];
		const part = question.shown?.parts[0];
		if (!question.shown || (question.shown.parts.length === 1 && part?.type === 'choice' && part.most === 1))
			void send();
	}

	function elsewhere() {
		way = way === 'home' ? 'school' : 'home';
		sessionStorage.setItem('bildung.way', way);
		void look();
	}

	onMount(() => {
		let events: EventSource | undefined;
		void (async () => {
			if (!tokens.own)
				try {
					tokens.own = (await body(api.GET('/api/own'))).csrf;
				} catch {
					return void goto('/');
				}
			await look();
			if (!shown?.on) return;
			events = new EventSource('/api/own/live/events');
			events.addEventListener('open', () => void look());
			events.addEventListener('moved', () => void look());
		})();
		const timer = setInterval(() => void look(), HERE);
		return () => {
			clearInterval(timer);
			events?.close();
		};
	});
</script>

<svelte:head><title>Live round</title></svelte:head>

<main class="mx-auto flex min-h-screen max-w-[760px] flex-col px-4 py-5 text-[18px]">
	<header class="mb-4 flex items-center gap-3 text-[15px] text-ink2">
		<span class="flex-1">{shown?.klass ?? ''}</span>
		{#if shown?.on}<Button kind="quiet" class="min-h-[40px]" aria-pressed={way === 'home'} onclick={elsewhere}
				>{way === 'home' ? 'I am at home' : 'I am at school'}</Button
			>{/if}
		<Button class="min-h-[40px]" href="/own">My tests</Button>
	</header>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if shown && !shown.on}
		<h1 class="m-auto text-[26px]">There is no live round now.</h1>
	{:else if shown && !question}
		<h1 class="m-auto text-[26px]">You are in. Wait for the first question.</h1>
	{:else if shown && question}
		<h1 class="mb-3 text-[20px]">Question {question.number}{question.again ? ', once more' : ''}</h1>
		{#if question.words}<p class="mb-4 text-[20px]">{question.words}</p>{/if}
		{#if question.shown}
			<Sheet
				shown={question.shown}
				stimulus={question.stimulus}
				answer={draft}
				name="live-{question.id}"
				locked={question.closed}
				onanswer={choose}
			/>
		{:else}
			<div class="grid grid-cols-2 gap-3" role="group" aria-label="Your answer">
				{#each question.letters as letter (letter)}<Button
						kind={draft === letter ? 'primary' : 'plain'}
						class="min-h-[72px] justify-center text-[28px]"
						aria-pressed={draft === letter}
						disabled={question.closed}
						onclick={() => choose(letter)}>{letter}</Button
					>{/each}
			</div>
		{/if}
		<p class="mt-5 text-[17px]" role="status">
			{#if question.closed}{shown.answer ? 'The answers are being shown.' : 'This question is closed.'}
			{:else if sent}Your answer is in. You can change it until the answers are shown.
			{:else if draft}Not sent yet.{:else}Choose or type your answer.{/if}
		</p>
		{#if !question.closed && draft && !sent}<Button
				kind="primary"
				class="mt-3 min-h-[50px] px-6 text-[17px]"
				onclick={send}>Send</Button
			>{/if}
		{#if shown.told}<Told told={shown.told} />{/if}
	{/if}
</main>
