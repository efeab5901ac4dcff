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
	let staffProblem = $state(page.url.searchParams.get('said') ?? '');
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
			if (waiting.class_code && waiting.own_code) {
				sessionCode = waiting.class_code;
				ownCode = waiting.own_code;
			}
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

	async function join(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		studentProblem = '';
		try {
			const token = await body(api.POST('/api/sit/join', { body: { session_code: sessionCode, own_code: ownCode } }));
			if (token.kind === 'sitting') tokens.sitting = token.csrf;
			await goto(token.kind === 'sitting' ? '/sit' : '/own');
		} catch (error) {
			studentProblem = said(error).replace('Not accepted: ', '');
		}
		busy = false;
	}

	async function signIn(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		staffProblem = '';
		try {
			const token = await body(api.POST('/api/signin', { body: { username, password } }));
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
			<p class="mt-1 mb-6 text-[17px] text-ink2">The session's code is on the board, your own code on your card. With your class's code you reach your own page.</p>
			{#if waiting}
				<div class="mb-5 border-l-4 border-petrol bg-wash px-4 py-3 text-[16px]" role="status">
					{#if waiting.state === 'waiting'}You wait to be let into {waiting.klass}. Your teacher decides; keep this page or come back to it.
					{:else if waiting.state === 'let_in'}You are in {waiting.klass}. Your own code is <b class="font-mono text-[20px] tracking-[0.1em]">{waiting.own_code}</b>; write it down. <button class="btn mt-2" onclick={forget}>I have written it down</button>
					{:else}You were not let into {waiting.klass}. Ask your teacher. <button class="btn mt-2" onclick={forget}>All right</button>{/if}
				</div>
			{/if}
			<form onsubmit={join} class="flex flex-col gap-4">
				<label class="block text-[16px]">
					Code of the session or class
					<input class="input !min-h-[52px] !font-mono !text-[24px] tracking-[0.18em] uppercase" bind:value={sessionCode} autocomplete="off" autocapitalize="characters" spellcheck="false" maxlength="12" required />
				</label>
				<label class="block text-[16px]">
					Your own code
					<input class="input !min-h-[52px] !font-mono !text-[24px] tracking-[0.18em] uppercase" bind:value={ownCode} autocomplete="off" autocapitalize="characters" spellcheck="false" maxlength="12" required />
				</label>
				<Notice text={studentProblem} />
				<button class="btn primary !min-h-[52px] justify-center !text-[18px]" disabled={busy}>Start</button>
			</form>
			{#if joining}
				<form class="mt-5 flex flex-col gap-3 border-t border-hair pt-4" onsubmit={ask}>
					<label class="block text-[16px]">Class code<input class="input !min-h-[46px] !font-mono !text-[20px] uppercase" bind:value={newcomer.code} autocomplete="off" maxlength="12" required /></label>
					<label class="block text-[16px]">Given name<input class="input !min-h-[46px] !text-[18px]" bind:value={newcomer.given} maxlength="60" autocomplete="given-name" required /></label>
					<label class="block text-[16px]">Family name<input class="input !min-h-[46px] !text-[18px]" bind:value={newcomer.family} maxlength="60" autocomplete="family-name" required /></label>
					<div class="flex gap-2"><button class="btn primary !min-h-[46px] !text-[16px]">Ask to join</button><button type="button" class="btn !min-h-[46px]" onclick={() => (joining = false)}>Leave it</button></div>
				</form>
			{:else if !waiting}<button class="btn quiet mt-3 self-start !px-0 !text-[15px]" onclick={() => (joining = true)}>New here? Ask to join a class</button>{/if}
		</section>
		<section class="flex flex-col gap-4 p-2 md:p-6">
			<h2 class="!text-[18px]">Staff and families</h2>
			<form onsubmit={signIn} class="flex flex-col gap-3">
				<label class="field">Name<input class="input" bind:value={username} autocomplete="username" required /></label>
				<label class="field">Password<input class="input" type="password" bind:value={password} autocomplete="current-password" required /></label>
				<Notice text={staffProblem} />
				<button class="btn primary justify-center" disabled={busy}>Sign in</button>
			</form>
			{#if welcome?.provider}<a class="btn justify-center" href="/api/signin/provider" data-sveltekit-reload>Sign in with {welcome.provider}</a>{/if}
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
	<svg class="pointer-events-none fixed inset-x-0 bottom-0 -z-10 h-[150px] w-full" viewBox="0 0 1280 150" preserveAspectRatio="none" aria-hidden="true">
		<path d="M0 92C140 60 260 30 400 58S640 120 800 84 1090 20 1280 64V150H0Z" fill="var(--color-relief5)" opacity=".35" />
		<path d="M0 116C180 96 300 62 460 88S700 138 860 108 1120 62 1280 92V150H0Z" fill="var(--color-relief4)" opacity=".45" />
		<path d="M0 136C200 124 330 96 500 114S760 148 920 130 1140 104 1280 118V150H0Z" fill="var(--color-relief3)" opacity=".5" />
	</svg>
</main>
