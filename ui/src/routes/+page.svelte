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
	let staffProblem = $state('');
	let busy = $state(false);

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
			tokens.sitting = token.csrf;
			await goto('/sit');
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
			await api.POST('/api/signin', { body: { username, password } });
			await goto(page.url.searchParams.get('next') ?? '/start');
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
			<p class="mt-1 mb-6 text-[17px] text-ink2">The session code is on the board, your own code on your card.</p>
			<form onsubmit={join} class="flex flex-col gap-4">
				<label class="block text-[16px]">
					Session code
					<input class="input !min-h-[52px] !font-mono !text-[24px] tracking-[0.18em] uppercase" bind:value={sessionCode} autocomplete="off" autocapitalize="characters" spellcheck="false" maxlength="12" required />
				</label>
				<label class="block text-[16px]">
					Your own code
					<input class="input !min-h-[52px] !font-mono !text-[24px] tracking-[0.18em] uppercase" bind:value={ownCode} autocomplete="off" autocapitalize="characters" spellcheck="false" maxlength="12" required />
				</label>
				<Notice text={studentProblem} />
				<button class="btn primary !min-h-[52px] justify-center !text-[18px]" disabled={busy}>Start</button>
			</form>
		</section>
		<section class="flex flex-col gap-4 p-2 md:p-6">
			<h2 class="!text-[18px]">Staff</h2>
			<form onsubmit={signIn} class="flex flex-col gap-3">
				<label class="field">Name<input class="input" bind:value={username} autocomplete="username" required /></label>
				<label class="field">Password<input class="input" type="password" bind:value={password} autocomplete="current-password" required /></label>
				<Notice text={staffProblem} />
				<button class="btn primary justify-center" disabled={busy}>Sign in</button>
			</form>
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
