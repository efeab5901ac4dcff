<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, tokens, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';

	/** The door: students to their test, staff to their stations. */
	let welcome = $state<Schemas['Welcome'] | null>(null);
	let sessionCode = $state(page.url.searchParams.get('session') ?? '');
	let ownCode = $state(page.url.searchParams.get('own') ?? '');
	let username = $state('');
	let password = $state('');
	let studentProblem = $state('');
	/** What the way back from the sign-in provider may say; nothing else in the address is shown. */
	const SAID: Record<string, string> = {
		late: 'Signing in took too long. Try again.',
		attempt: 'This sign-in belongs to another attempt. Try again.',
		unreachable: 'The sign-in provider cannot be reached. Try again, or sign in with a password.',
		untrusted: 'The sign-in provider did not answer as it should. Ask the coordinator.',
		unknown: 'Your school account works, but nobody here belongs to it. Ask the coordinator.',
		waiting: 'Your school account has not been confirmed yet. Ask the coordinator.',
		failed: 'Signing in did not work. Try again, or ask the coordinator.'
	};
	let staffProblem = $state(SAID[page.url.searchParams.get('said') ?? ''] ?? '');
	let endOthers = $state(false);
	let busy = $state(false);
	let joining = $state(false);
	let newcomer = $state({ code: '', given: '', family: '' });
	let waiting = $state<Schemas['TicketStateOut'] | null>(null);
	let timer: ReturnType<typeof setInterval> | undefined;

	/** Ask a class to be let in; the ticket waits in this browser until the teacher has decided. */
	async function ask(event: SubmitEvent) {
		event.preventDefault();
		studentProblem = '';
		try {
			const made = await body(api.POST('/api/join', { body: newcomer }));
			localStorage.setItem('bildung.ticket', made.ticket);
			joining = false;
			await wait();
		} catch (error) {
			studentProblem = said(error).replace('Not accepted: ', '');
		}
	}
	async function wait() {
		const ticket = localStorage.getItem('bildung.ticket');
		if (!ticket) return;
		try {
			waiting = await body(api.POST('/api/join/state', { body: { ticket } }));
			if (waiting.state !== 'waiting') clearInterval(timer);
		} catch {
			localStorage.removeItem('bildung.ticket');
			waiting = null;
		}
	}
	function forget() {
		localStorage.removeItem('bildung.ticket');
		waiting = null;
	}
	onMount(() => {
		void wait();
		timer = setInterval(() => waiting?.state === 'waiting' && void wait(), 8000);
		return () => clearInterval(timer);
	});

	onMount(async () => {
		try {
			welcome = await body(api.GET('/api/welcome'));
		} catch (error) {
			staffProblem = said(error);
		}
	});

	let who = $state<Schemas['WhoseCodes'] | null>(null); // whose codes these are: asked before anything begins
	let asking = $state<HTMLElement>();

	async function look(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		studentProblem = '';
		try {
			who = await body(api.POST('/api/sit/who', { body: { session_code: sessionCode, own_code: ownCode } }));
			requestAnimationFrame(() => asking?.focus());
		} catch (error) {
			studentProblem = said(error).replace('Not accepted: ', '');
		}
		busy = false;
	}

	function notMe() {
		[who, ownCode] = [null, ''];
		requestAnimationFrame(() => document.getElementById('own-code')?.focus());
	}

	async function join() {
		busy = true;
		studentProblem = '';
		try {
			const token = await body(api.POST('/api/sit/join', { body: { session_code: sessionCode, own_code: ownCode } }));
			if (token.kind === 'sitting') tokens.sitting = token.csrf;
			await goto(token.kind === 'sitting' ? '/sit' : '/own');
		} catch (error) {
			studentProblem = said(error).replace('Not accepted: ', '');
			who = null;
		}
		busy = false;
	}

	async function signIn(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		staffProblem = '';
		try {
			const token = await body(api.POST('/api/signin', { body: { username, password, end_others: endOthers } }));
			await goto(token.kind === 'family' ? '/family' : (page.url.searchParams.get('next') ?? '/start'));
		} catch (error) {
			staffProblem = said(error).replace('Not accepted: ', '');
		}
		busy = false;
	}
</script>

<svelte:head><title>Bildung</title></svelte:head>

<main class="mx-auto flex min-h-screen max-w-[1040px] flex-col px-5 py-6">
	<header class="flex items-center gap-2.5 text-[18px] font-bold">
		<img src="/mark.svg" width="28" height="28" alt="" /> Bildung
		<span class="ml-2 text-[15px] font-normal text-ink2">{welcome?.federation ?? ''}</span>
	</header>
	<div class="my-auto grid gap-5 py-6 md:grid-cols-[1.15fr_1fr]">
		<section class="sheet flex flex-col p-6 md:p-9">
			<h1 class="!text-[26px]">Sit a test</h1>
			<p class="mt-1 mb-6 text-[17px] text-ink2">
				The session's code is on the board, your own code on your card. With your class's code you reach your own page.
			</p>
			{#if waiting}
				<div class="mb-5 border-l-4 border-petrol bg-wash px-4 py-3 text-[16px]" role="status">
					{#if waiting.state === 'waiting'}You wait to be let into {waiting.klass}. Your teacher decides; keep this page
						or come back to it.
					{:else if waiting.state === 'let_in'}You are in {waiting.klass}. Your teacher has your sign-in code.
						<button class="btn mt-2" onclick={forget}>Close</button>
					{:else}You were not let into {waiting.klass}. Ask your teacher.
						<button class="btn mt-2" onclick={forget}>All right</button>{/if}
				</div>
			{/if}
			{#if who}
				<div
					bind:this={asking}
					tabindex="-1"
					class="flex flex-col gap-4 !outline-none"
					role="group"
					aria-labelledby="asked"
				>
					<p id="asked" class="text-[17px]">Are you <b class="block text-[30px] leading-tight">{who.name}</b></p>
					<p class="text-[17px] text-ink2">
						{#if who.title}{who.title}, {who.klass}.{#if who.resumes}
								You have started already{who.answered
									? ` and answered ${who.answered} ${who.answered === 1 ? 'question' : 'questions'}`
									: ''}; you go on from there.{/if}{:else}{who.klass}{/if}
					</p>
					<div class="flex flex-wrap gap-3">
						<button class="btn primary !min-h-[52px] !px-6 !text-[18px]" disabled={busy} onclick={join}
							>{who.title ? (who.resumes ? 'Yes, go on' : 'Yes, start') : 'Yes, that is me'}</button
						>
						<button class="btn !min-h-[52px] !px-5 !text-[18px]" onclick={notMe}>No, that is not me</button>
					</div>
				</div>
			{:else}
				<form onsubmit={look} class="flex flex-col gap-4">
					<label class="block text-[16px]">
						Code of the session or class
						<input
							class="input !min-h-[52px] !font-mono !text-[24px] tracking-[0.18em] uppercase"
							bind:value={sessionCode}
							autocomplete="off"
							autocapitalize="characters"
							spellcheck="false"
							maxlength="12"
							required
						/>
					</label>
					<label class="block text-[16px]">
						Your own code
						<input
							class="input !min-h-[52px] !font-mono !text-[24px] tracking-[0.18em] uppercase"
							id="own-code"
							bind:value={ownCode}
							autocomplete="off"
							autocapitalize="characters"
							spellcheck="false"
							maxlength="12"
							required
						/>
					</label>
					<Notice text={studentProblem} />
					<button class="btn primary !min-h-[52px] justify-center !text-[18px]" disabled={busy}>Next</button>
				</form>
			{/if}
			{#if joining}
				<form class="mt-5 flex flex-col gap-3 border-t border-hair pt-4" onsubmit={ask}>
					<label class="block text-[16px]"
						>Class code<input
							class="input !min-h-[46px] !font-mono !text-[20px] uppercase"
							bind:value={newcomer.code}
							autocomplete="off"
							maxlength="12"
							required
						/></label
					>
					<label class="block text-[16px]"
						>Given name<input
							class="input !min-h-[46px] !text-[18px]"
							bind:value={newcomer.given}
							maxlength="60"
							autocomplete="given-name"
							required
						/></label
					>
					<label class="block text-[16px]"
						>Family name<input
							class="input !min-h-[46px] !text-[18px]"
							bind:value={newcomer.family}
							maxlength="60"
							autocomplete="family-name"
							required
						/></label
					>
					<div class="flex gap-2">
						<button class="btn primary !min-h-[46px] !text-[16px]">Ask to join</button><button
							type="button"
							class="btn !min-h-[46px]"
							onclick={() => (joining = false)}>Leave it</button
						>
					</div>
				</form>
			{:else if !waiting && !who}<button
					class="btn quiet mt-3 self-start !px-0 !text-[15px]"
					onclick={() => (joining = true)}>New here? Ask to join a class</button
				>{/if}
		</section>
		<section class="flex flex-col gap-4 p-2 md:p-6">
			<h2 class="!text-[18px]">Staff and families</h2>
			<form onsubmit={signIn} class="flex flex-col gap-3">
				<label class="field">Name<input class="input" bind:value={username} autocomplete="username" required /></label>
				<label class="field"
					>Password<input
						class="input"
						type="password"
						bind:value={password}
						autocomplete="current-password"
						required
					/></label
				>
				<label class="flex min-h-[26px] items-center gap-2 text-[13.5px]"
					><input type="checkbox" class="accent-petrol" bind:checked={endOthers} /> Sign out my other devices</label
				>
				<Notice text={staffProblem} />
				<button class="btn primary justify-center" disabled={busy}>Sign in</button>
			</form>
			{#if welcome?.provider}<a class="btn justify-center" href="/api/signin/provider" data-sveltekit-reload
					>Sign in with {welcome.provider}</a
				>{/if}
			{#if welcome?.demo_people.length}
				<div class="border-t border-hair pt-3">
					<p class="small mb-2">These data are made up. Sign in as</p>
					<div class="flex flex-col gap-1.5">
						{#each welcome.demo_people as person (person.username)}
							<button
								class="btn justify-between"
								onclick={(e) => {
									username = person.username;
									password = person.password;
									void signIn(e as unknown as SubmitEvent);
								}}
							>
								<span>{person.name}</span><span class="text-ink2">{person.role}</span>
							</button>
						{/each}
					</div>
				</div>
			{/if}
		</section>
	</div>
	<svg
		class="pointer-events-none fixed inset-x-0 bottom-0 -z-10 h-[150px] w-full"
		viewBox="0 0 1280 150"
		preserveAspectRatio="none"
		aria-hidden="true"
	>
		<path
			d="M0 92C140 60 260 30 400 58S640 120 800 84 1090 20 1280 64V150H0Z"
			fill="var(--color-relief5)"
			opacity=".35"
		/>
		<path
			d="M0 116C180 96 300 62 460 88S700 138 860 108 1120 62 1280 92V150H0Z"
			fill="var(--color-relief4)"
			opacity=".45"
		/>
		<path
			d="M0 136C200 124 330 96 500 114S760 148 920 130 1140 104 1280 118V150H0Z"
			fill="var(--color-relief3)"
			opacity=".5"
		/>
	</svg>
</main>
