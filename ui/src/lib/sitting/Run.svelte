<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { Problem, said } from '$lib/api/client';
	import { complete } from '$lib/sitting/question/answer';
	import Sheet from '$lib/sitting/question/Sheet.svelte';
	import { plain } from '$lib/words/plain';
	import Markup from '$lib/parts/Markup.svelte';
	import Calculator from './Calculator.svelte';
	import { Highlighter } from './highlighter.svelte';
	import Review from './Review.svelte';
	import Ruler from './Ruler.svelte';
	import type { Sitting } from './sitting.svelte';
	import Told from './Told.svelte';

	/** The student's page: one question at a time, every answer saved as it is given; movement, tools and what is told
	    when are as the test says. Staff see the same page in a trial run. */
	let {
		sitting,
		home = '/',
		trial = false,
		lead
	}: { sitting: Sitting; home?: string; trial?: boolean; lead?: import('svelte').Snippet } = $props();
	let problem = $state('');
	let leaving = $state(false); // the page before handing in
	let busy = $state(false);
	let now = $state(Date.now());

	const paper = $derived(sitting.paper);
	const question = $derived(sitting.question);
	const highlighter = new Highlighter();
	let calculator = $state(false);
	let ruler = $state(false);
	let noting = $state(false);
	let hinted = $state<Record<string, number>>({});
	let notes = $state<Record<string, string>>({});
	const tools = $derived(new Set<string>(paper?.tools ?? []));
	const free = $derived(!paper?.one_by_one);
	const begins = $derived(
		question && paper?.parts.length && paper.questions.find((q) => q.part === question.part)?.id === question.id
			? paper.parts[question.part]
			: undefined
	);
	const unchecked = $derived(!!paper?.check && !!question && !question.final && !!question.answer);
	const last = $derived(sitting.place === (paper?.questions.length ?? 0) - 1);
	const minutes = $derived(paper ? Math.max(0, Math.ceil((Date.parse(paper.end) - now - sitting.ahead) / 60000)) : 0);
	const ended = $derived(sitting.ended || (paper && paper.state !== 'answering' ? paper.state : ''));
	let room = $state(0);
	const roomy = $derived(room >= (paper?.questions.length ?? 0) * 27); // each a target of 24 px and a gap
	const STATUS = { saved: 'Saved', saving: 'Saving …', waiting: 'Not saved yet. Keep this page open.' };
	const status = $derived(
		trial
			? 'Trial run: nothing is kept'
			: sitting.refused
				? `Not saved: ${sitting.refused}`
				: sitting.status === 'waiting' && !sitting.kept
					? 'Not saved yet, and this device is full. Do not close this page.'
					: STATUS[sitting.status]
	);

	onMount(() => {
		let stop = () => {};
		sitting
			.load()
			.then(
				() => (
					(stop = sitting.listen()),
					(notes = JSON.parse(sessionStorage.getItem(`bildung.notes.${sitting.paper?.sitting}`) ?? '{}'))
				)
			)
			.catch((error) => {
				if (error instanceof Problem && error.status === 401) void goto(home);
				else problem = said(error);
			});
		const clock = setInterval(() => (now = Date.now()), 10_000);
		const back = () => void sitting.ask();
		const seen = () => sitting.count();
		window.addEventListener('online', back);
		document.addEventListener('visibilitychange', seen);
		return () => {
			clearInterval(clock);
			stop();
			window.removeEventListener('online', back);
			document.removeEventListener('visibilitychange', seen);
		};
	});

	// time is over: hand in what is there, once
	let handed = false;
	$effect(() => {
		if (
			paper &&
			!trial &&
			!ended &&
			!handed &&
			paper.state === 'answering' &&
			now + sitting.ahead > Date.parse(paper.end)
		) {
			handed = true;
			void handIn();
		}
	});

	function note(text: string) {
		if (!question || !paper) return;
		notes[question.id] = text;
		sessionStorage.setItem(`bildung.notes.${paper.sitting}`, JSON.stringify(notes));
	}

	async function check() {
		if (!question) return;
		busy = true;
		problem = '';
		try {
			await sitting.check(question);
		} catch (error) {
			problem = error instanceof Problem ? error.detail : error instanceof Error ? error.message : said(error);
		}
		busy = false;
	}

	async function again() {
		busy = true;
		try {
			await sitting.again();
			[leaving, handed, hinted] = [false, false, {}];
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}

	function show(place: number) {
		sitting.go(place);
		leaving = false;
		window.scrollTo(0, 0);
		requestAnimationFrame(() => document.getElementById('question')?.focus());
	}

	function keys(event: KeyboardEvent) {
		const target = event.target as HTMLElement;
		if (event.ctrlKey || event.metaKey || event.altKey || leaving || ended || !question) return;
		if (target.matches('textarea, select, [role=checkbox]')) return;
		const only = question.shown.parts.length === 1 ? question.shown.parts[0] : undefined;
		if (target.matches('input[type=text]')) {
			if (event.key === 'Enter' && !last && only) show(sitting.place + 1);
			return;
		}
		const option =
			only?.type === 'choice' && only.most === 1 && !question.final && /^[a-z]$/i.test(event.key)
				? only.options[event.key.toUpperCase().charCodeAt(0) - 65]
				: undefined;
		if (option) sitting.answer(question, option.id);
		else if (event.key === 'ArrowRight' && !target.matches('input') && !last) show(sitting.place + 1);
		else if (event.key === 'ArrowLeft' && !target.matches('input')) show(sitting.place - 1);
	}

	function overview() {
		leaving = true;
		window.scrollTo(0, 0);
	}

	function look(at: number) {
		const q = paper?.questions[at];
		if (at === sitting.place && !leaving) return 'h-6 bg-petrol';
		return q && sitting.later[q.id]
			? 'later h-4'
			: q && complete(q.shown, q.answer)
				? 'h-4 bg-relief3'
				: 'h-2 bg-[#c9d2ce]';
	}

	/** The question and its choices, by the device's own voice; nothing leaves the device. */
	const canSpeak = 'speechSynthesis' in window;
	function speak() {
		if (!question) return;
		speechSynthesis.cancel();
		const named = (list: { id: string; html: string }[]) =>
			list.map((o) => (o.id.length === 1 ? `${o.id}: ` : '') + plain(o.html));
		const words = [question.stimulus ? plain(question.stimulus.html) : '', plain(question.shown.body)];
		for (const part of question.shown.parts) {
			words.push(plain(part.prompt));
			if ('options' in part) words.push(...named(part.options));
			if ('rows' in part) words.push(...part.rows.map((o) => plain(o.html)), ...part.columns.map((o) => plain(o.html)));
			if (part.type === 'hot_text') words.push(plain(part.text));
		}
		speechSynthesis.speak(new SpeechSynthesisUtterance(words.filter(Boolean).join('. ')));
	}

	async function handIn() {
		busy = true;
		problem = '';
		try {
			await sitting.handIn();
		} catch (error) {
			problem =
				error instanceof Problem
					? error.detail
					: error instanceof Error && !(error instanceof TypeError)
						? error.message
						: said(error);
			if (error instanceof Problem && error.status === 409) await sitting.load();
		}
		busy = false;
	}

	async function leave() {
		try {
			await sitting.leave();
		} catch {
			/* signed out already */
		}
		await goto(home);
	}
</script>

<svelte:window onkeydown={keys} />
<svelte:head><title>{paper?.title ?? 'Test'}</title></svelte:head>

<div class="flex min-h-screen flex-col bg-sheet text-[18px] leading-normal" class:large={paper?.large_print}>
	{@render lead?.()}
	{#if problem && !paper}<p class="p-6" role="alert">{problem}</p>{/if}
	{#if sitting.review}
		<main class="mx-auto w-full max-w-[860px] px-5 py-8">
			<Review review={sitting.review} />
			<button class="btn primary mt-8 !min-h-[48px] !px-6 !text-[17px]" onclick={leave}
				>{trial ? 'Back to the form' : 'To the start page'}</button
			>
		</main>
	{:else if paper && ended}
		<main class="m-auto max-w-[560px] p-6 text-center">
			{#if ended === 'handed_in'}
				<h1 class="!text-[26px]">
					{trial
						? 'This is the end of the test.'
						: sitting.closed
							? `This test is closed, ${paper.name}. Your answers are in.`
							: `Your answers are in, ${paper.name}.`}
				</h1>
				{#if sitting.left}<p class="mt-3 border-l-4 border-vermilion pl-3 text-left" role="alert">
						{sitting.left === 1 ? 'One answer was' : `${sitting.left} answers were`} not saved in time and {sitting.left ===
						1
							? 'is'
							: 'are'} kept on this device. Tell the person in the room before you leave.
					</p>{/if}
				<p class="mt-3">
					{trial
						? 'Nothing of this trial run is kept.'
						: paper.more
							? `You may try again ${paper.more === 1 ? 'once' : `${paper.more} times`}; your first answers are the ones that count.`
							: 'You can close this page, or let the next person start here.'}
				</p>
				{#if paper.review_follows && !paper.review}<p class="mt-3">
						You will see the right answers here when everyone has taken this test.
					</p>{/if}
				{#if problem}<p class="mt-3 border-l-4 border-vermilion pl-3 text-left" role="alert">{problem}</p>{/if}
				<div class="mt-5 flex flex-wrap justify-center gap-3">
					{#if paper.review}<button
							class="btn !min-h-[48px] !px-6 !text-[17px]"
							onclick={() => sitting.look().catch((e) => (problem = said(e)))}>See what was right</button
						>{/if}
					{#if paper.more}<button class="btn !min-h-[48px] !px-6 !text-[17px]" disabled={busy} onclick={again}
							>Try again</button
						>{/if}
				</div>
			{:else if ended === 'signed_out'}
				<h1 class="!text-[24px]">You are signed out.</h1>
				<p class="mt-3">
					Enter the session code and your own code again. Your answers are kept on this device and go on from there.
				</p>
			{:else}
				<h1 class="!text-[24px]">This test is not open to you now.</h1>
				<p class="mt-3">Ask the person in the room.</p>
			{/if}
			<button class="btn primary mt-6 !min-h-[48px] !px-6 !text-[17px]" onclick={leave}
				>{trial ? 'Back to the form' : 'To the start page'}</button
			>
		</main>
	{:else if paper && sitting.takenOver}
		<main class="m-auto max-w-[560px] p-6 text-center">
			<h1 class="!text-[24px]">You went on with another device.</h1>
			<p class="mt-3">What you answered here is saved. To use this device again, enter your codes once more.</p>
			<button class="btn primary mt-6 !min-h-[48px] !px-6 !text-[17px]" onclick={leave}>To the start page</button>
		</main>
	{:else if paper && question}
		<header
			class="sticky top-0 z-10 flex items-center gap-4 border-b border-hair bg-sheet px-4 py-2 text-[15px] md:px-6"
		>
			<b class="hidden md:block">{paper.title}</b>{#if paper.full_name}<span
					class="max-w-[30%] flex-none truncate text-ink2">{paper.full_name}</span
				>{/if}
			<div class="min-w-0 flex-1" bind:clientWidth={room}>
				{#if roomy && free}
					<nav class="flex h-8 items-end justify-center gap-[3px]" aria-label="Questions">
						{#each paper.questions as q, at (q.id)}
							<button
								class="flex h-8 w-6 flex-none cursor-pointer items-end"
								title="Question {q.number}: {sitting.later[q.id]
									? 'come back to it'
									: complete(q.shown, q.answer)
										? 'answered'
										: 'open'}"
								aria-label="Question {q.number}, {complete(q.shown, q.answer) ? 'answered' : 'open'}{sitting.later[q.id]
									? ', come back to it'
									: ''}"
								aria-current={at === sitting.place && !leaving ? 'step' : undefined}
								onclick={() => show(at)}
							>
								<span class="step block w-full {look(at)}"></span>
							</button>
						{/each}
					</nav>
				{:else}
					<button
						class="flex h-10 w-full flex-col justify-end {free ? 'cursor-pointer' : ''}"
						disabled={!free}
						aria-label="Question {question.number} of {paper.questions.length}{free ? '; show all' : ''}"
						onclick={overview}
					>
						<span class="flex w-full items-end gap-[2px]" aria-hidden="true">
							{#each paper.questions as q, at (q.id)}<span class="step block min-w-0 flex-1 {look(at)}"></span>{/each}
						</span>
						<span class="text-[12px] leading-[14px]">{question.number} of {paper.questions.length}</span>
					</button>
				{/if}
			</div>
			{#if !trial}<span class="flex-none tabular-nums {minutes <= 5 ? 'font-bold' : ''}">{minutes} min left</span>{/if}
		</header>
		{#if leaving}
			<main class="mx-auto w-full max-w-[680px] flex-1 px-5 py-8">
				<h1 class="!text-[24px]">
					{sitting.unanswered.length === 0
						? 'You have answered everything.'
						: `${sitting.unanswered.length} of ${paper.questions.length} questions are still open.`}
				</h1>
				<div class="mt-5 grid grid-cols-[repeat(auto-fill,minmax(52px,1fr))] gap-2">
					{#each paper.questions as q (q.id)}
						<button
							class="step flex min-h-[46px] cursor-pointer items-center justify-center rounded-[4px] border-[1.5px] text-[17px] {sitting
								.later[q.id]
								? 'later border-relief2'
								: complete(q.shown, q.answer)
									? 'border-relief3 bg-[#dfe8e6]'
									: 'border-ink bg-sheet font-bold'}"
							aria-label="Question {q.number}, {complete(q.shown, q.answer) ? 'answered' : 'open'}{sitting.later[q.id]
								? ', come back to it'
								: ''}"
							disabled={q.number - 1 < sitting.first}
							onclick={() => show(q.number - 1)}><span class:tag={sitting.later[q.id]}>{q.number}</span></button
						>
					{/each}
				</div>
				<p class="mt-3 text-[15px] text-ink2">
					A bold frame is still open{paper.questions.some((q) => sitting.later[q.id])
						? '; stripes are those you wanted to come back to'
						: ''}.
				</p>
				{#if problem}<p class="mt-5 border-l-4 border-vermilion pl-3" role="alert">{problem}</p>{/if}
				<p class="mt-6 text-ink2">{trial ? 'A student hands in here.' : 'Once handed in, nothing can be changed.'}</p>
				<div class="mt-3 flex flex-wrap gap-3">
					<button class="btn !min-h-[50px] !px-5 !text-[17px]" onclick={() => (leaving = false)}
						>Back to the questions</button
					>
					<button class="btn primary !min-h-[50px] !px-6 !text-[17px]" disabled={busy} onclick={handIn}
						>{sitting.unanswered.length ? `Hand in with ${sitting.unanswered.length} open` : 'Hand in'}</button
					>
				</div>
			</main>
		{:else}
			<main class="w-full flex-1 px-4 py-6 pb-28 md:px-8 md:py-9">
				{#if tools.size}
					<div class="mx-auto mb-4 flex max-w-[1120px] flex-wrap items-start gap-2" role="group" aria-label="Tools">
						{#if tools.has('calculator')}<button
								class="btn !min-h-[40px]"
								aria-pressed={calculator}
								onclick={() => (calculator = !calculator)}>Calculator</button
							>{/if}
						{#if tools.has('ruler')}<button
								class="btn !min-h-[40px]"
								aria-pressed={ruler}
								onclick={() => (ruler = !ruler)}>Ruler</button
							>{/if}
						{#if tools.has('highlighter')}<button
								class="btn !min-h-[40px]"
								aria-pressed={highlighter.on}
								onclick={() => (highlighter.on = !highlighter.on)}>Highlighter</button
							>{#if highlighter.on}<button
									class="btn quiet !min-h-[40px]"
									onclick={() => highlighter.clear(question.id)}>Clear marks</button
								>{/if}{/if}
						{#if tools.has('notes')}<button
								class="btn !min-h-[40px]"
								aria-pressed={noting}
								onclick={() => (noting = !noting)}>Notes</button
							>{/if}
						{#if calculator}<Calculator />{/if}
						{#if noting}<label class="block w-full max-w-[420px] text-[15px] text-ink2"
								>Notes to this question; nobody marks them<textarea
									class="mt-1 block min-h-[96px] w-full rounded border border-[#8d9b98] p-2 text-[17px] text-ink"
									value={notes[question.id] ?? ''}
									oninput={(e) => note(e.currentTarget.value)}></textarea></label
							>{/if}
					</div>
					{#if ruler}<Ruler />{/if}
				{/if}
				<div id="question" tabindex="-1" class="!outline-none">
					{#if begins && (begins.name || begins.instructions)}
						<div class="mx-auto mb-5 max-w-[1120px] border-b border-hair pb-3 text-[17px]">
							{#if begins.name}<b>{begins.name}</b>{#if begins.minutes}<span class="text-ink2"
										>&ensp;about {begins.minutes} minutes</span
									>{/if}{/if}{#if begins.instructions}<p>{begins.instructions}</p>{/if}
						</div>
					{/if}
					{#key question.id}
						<div {@attach highlighter.over(question.id)} class={highlighter.on ? 'marking' : ''}>
							<Sheet
								shown={question.shown}
								stimulus={question.stimulus}
								answer={question.answer}
								name="q{question.id}"
								number="{question.number}."
								crossing={tools.has('crossing_out')}
								locked={question.final}
								onanswer={(answer) => sitting.answer(question, answer)}
							>
								{#snippet before()}
									{#if paper.read_aloud && canSpeak}<button class="btn mb-3 !min-h-[44px] !text-[16px]" onclick={speak}
											>Read it to me</button
										>{/if}
								{/snippet}
								{#snippet after()}
									{#if question.hints.length && !question.final}
										{@const seen = hinted[question.id] ?? 0}
										<div class="mt-4 text-[16px]">
											{#each question.hints.slice(0, seen) as hint, n (n)}<div
													class="mb-2 border-l-4 border-l-relief4 pl-3"
												>
													<Markup html={hint} />
												</div>{/each}
											{#if seen < question.hints.length}<button
													class="btn !min-h-[44px]"
													onclick={() => (hinted[question.id] = seen + 1)}>{seen ? 'One more hint' : 'A hint'}</button
												>{/if}
										</div>
									{/if}
									{#if problem}<p class="mt-4 border-l-4 border-vermilion pl-3" role="alert">{problem}</p>{/if}
									{#if sitting.told[question.id]}<Told told={sitting.told[question.id]!} />{/if}
								{/snippet}
							</Sheet>
						</div>
					{/key}
				</div>
			</main>
			<footer
				class="fixed inset-x-0 bottom-0 flex flex-wrap items-center gap-2 border-t border-hair bg-sheet px-4 py-2.5 md:px-6"
			>
				{#if !paper.one_way}<button
						class="btn !min-h-[46px] !px-4 !text-[17px]"
						disabled={sitting.place === 0}
						onclick={() => show(sitting.place - 1)}>Back</button
					>{/if}
				<button
					class="btn {paper.one_way ? '!hidden' : ''} !min-h-[46px] !px-4 !text-[17px]"
					aria-pressed={!!sitting.later[question.id]}
					onclick={() => sitting.comeBack(question.id)}
				>
					{#if sitting.later[question.id]}Marked{:else}<span class="md:hidden">Later</span><span
							class="hidden md:inline">Come back to it</span
						>{/if}
				</button>
				<span
					class="ml-auto text-[14px] {sitting.refused || sitting.status === 'waiting'
						? 'font-bold text-vermilion'
						: 'text-ink2'}"
					role="status">{status}</span
				>
				{#if !last && free}<button class="btn hidden !min-h-[46px] !px-4 !text-[17px] md:inline-flex" onclick={overview}
						>Finish</button
					>{/if}
				{#if unchecked}<button class="btn primary !min-h-[46px] !px-6 !text-[17px]" disabled={busy} onclick={check}
						>Check</button
					>
				{:else}<button
						class="btn primary !min-h-[46px] !px-6 !text-[17px]"
						onclick={() => (last ? overview() : show(sitting.place + 1))}>{last ? 'Finish' : 'Next'}</button
					>{/if}
			</footer>
		{/if}
	{/if}
</div>

<style>
	:global(::highlight(marked)) {
		background: #f0dfaf;
	}
	.marking {
		cursor: text;
	}
	.large main {
		zoom: 1.35;
	}
	.step {
		border-radius: 1px;
	}
	.tag {
		padding: 0 5px;
		background: #fff;
	}
	.later {
		background: repeating-linear-gradient(135deg, #fff 0 2px, var(--color-relief2) 2px 4px);
		box-shadow: inset 0 0 0 1px var(--color-relief2);
	}
</style>
