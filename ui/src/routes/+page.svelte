<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Practice from '$lib/sitting/Practice.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
	$effect(() => shown.follow());
</script>

<svelte:head><title>Bildung</title></svelte:head>

<main class="mx-auto flex min-h-screen max-w-[1040px] flex-col px-5 py-6">
	<header class="flex items-center gap-2.5 text-[18px] font-bold">
		<img src="/mark.svg" width="28" height="28" alt="" /> Bildung
		<span class="ml-2 text-[15px] font-normal text-ink2">{shown.welcome?.federation ?? ''}</span>
	</header>
	<div class="my-auto grid gap-5 py-6 md:grid-cols-[1.15fr_1fr]">
		<Panel class="flex flex-col p-6 md:p-9">
			<h1 class="text-[26px]">Take a test</h1>
			<p class="mt-1 mb-6 text-[17px] text-ink2">
				The session code is on the board; your sign-in code is on your test ticket. With your class code you reach your
				own page.
			</p>
			{#if shown.errands.students}
				<p class="mb-5 border-l-4 border-vermilion pl-3 text-[16px]" role="status">
					This device still holds {shown.errands.answers === 1 ? 'one answer' : `${shown.errands.answers} answers`} of
					{shown.errands.students === 1 ? 'another student' : `${shown.errands.students} other students`}. They are sent
					as soon as there is a network; leave the device switched on.
				</p>
			{/if}
			{#if shown.waiting}
				<div class="mb-5 border-l-4 border-petrol bg-wash px-4 py-3 text-[16px]" role="status">
					{#if shown.waiting.state === 'waiting'}Your request to join {shown.waiting.klass} is waiting for your teacher. Keep
						this page open or come back later.
					{:else if shown.waiting.state === 'let_in'}You are in {shown.waiting.klass}. Your teacher has your sign-in
						code.
						<Button class="mt-2" onclick={shown.forget}>Close</Button>
					{:else}Your request to join {shown.waiting.klass} was declined. Ask your teacher.
						<Button class="mt-2" onclick={shown.forget}>OK</Button>{/if}
				</div>
			{/if}
			{#if shown.practicing}<Practice ondone={() => (shown.practicing = false)} />
			{:else if shown.who}
				<div
					bind:this={shown.asking}
					tabindex="-1"
					class="flex flex-col gap-4 outline-none"
					role="group"
					aria-labelledby="asked"
				>
					<p id="asked" class="text-[17px]">Are you <b class="block text-[30px] leading-tight">{shown.who.name}</b></p>
					<p class="text-[17px] text-ink2">
						{#if shown.who.title}{shown.who.title}, {shown.who.klass}.{#if shown.who.resumes}
								You have started already{shown.who.answered
									? ` and answered ${shown.who.answered} ${shown.who.answered === 1 ? 'question' : 'questions'}`
									: ''}; you go on from there.{#if shown.who.elsewhere}
									<b class="block text-ink">Your test is open on another device. If you go on here, it stops there.</b
									>{/if}{/if}{:else}{shown.who.klass}{/if}
					</p>
					{#if shown.who.instructions}<p class="border-l-4 border-petrol pl-3 text-[17px] whitespace-pre-line">
							{shown.who.instructions}
						</p>{/if}
					{#if shown.who.title}<Checkbox bind:checked={shown.atHome} class="text-[16px]">I am not at school</Checkbox
						>{/if}
					<div class="flex flex-wrap gap-3">
						<Button kind="primary" class="min-h-[52px] px-6 text-[18px]" disabled={shown.busy} onclick={shown.join}
							>{shown.who.title
								? shown.who.elsewhere
									? 'Yes, go on here'
									: shown.who.resumes
										? 'Yes, go on'
										: 'Yes, start'
								: 'Yes, that is me'}</Button
						>
						{#if shown.who.practice}<Button
								class="min-h-[52px] px-5 text-[18px]"
								onclick={() => (shown.practicing = true)}>Practice question</Button
							>{/if}
						<Button class="min-h-[52px] px-5 text-[18px]" onclick={shown.notMe}>No, that is not me</Button>
					</div>
				</div>
			{:else}
				<form onsubmit={shown.look} class="flex flex-col gap-4">
					<label class="block text-[16px]">
						Session or class code
						<input
							class="input min-h-[52px] font-mono text-[24px] tracking-[0.18em] uppercase"
							bind:value={shown.sessionCode}
							autocomplete="off"
							autocapitalize="characters"
							spellcheck="false"
							maxlength="12"
							required
						/>
					</label>
					<label class="block text-[16px]">
						Your sign-in code
						<input
							class="input min-h-[52px] font-mono text-[24px] tracking-[0.18em] uppercase"
							id="own-code"
							bind:value={shown.ownCode}
							autocomplete="off"
							autocapitalize="characters"
							spellcheck="false"
							maxlength="12"
							required
						/>
					</label>
					<Notice text={shown.studentProblem} />
					<Button type="submit" kind="primary" class="min-h-[52px] justify-center text-[18px]" disabled={shown.busy}
						>Next</Button
					>
				</form>
			{/if}
			{#if shown.joining}
				<form class="mt-5 flex flex-col gap-3 border-t border-hair pt-4" onsubmit={shown.ask}>
					<label class="block text-[16px]"
						>Class code<input
							class="input min-h-[46px] font-mono text-[20px] uppercase"
							bind:value={shown.newcomer.code}
							autocomplete="off"
							maxlength="12"
							required
						/></label
					>
					<label class="block text-[16px]"
						>Given name<input
							class="input min-h-[46px] text-[18px]"
							bind:value={shown.newcomer.given}
							maxlength="60"
							autocomplete="given-name"
							required
						/></label
					>
					<label class="block text-[16px]"
						>Family name<input
							class="input min-h-[46px] text-[18px]"
							bind:value={shown.newcomer.family}
							maxlength="60"
							autocomplete="family-name"
							required
						/></label
					>
					<div class="flex gap-2">
						<Button type="submit" kind="primary" class="min-h-[46px] text-[16px]">Ask to join</Button><Button
							class="min-h-[46px]"
							onclick={() => (shown.joining = false)}>Cancel</Button
						>
					</div>
				</form>
			{:else if !shown.waiting && !shown.who}<Button
					kind="quiet"
					class="mt-3 self-start px-0 text-[15px]"
					onclick={() => (shown.joining = true)}>New here? Ask to join a class</Button
				>{/if}
			{#if !shown.who}<a class="mt-1 self-start text-[15px]" href="/check">Check this device</a>{/if}
		</Panel>
		<section class="flex flex-col gap-4 p-2 md:p-6">
			<h2 class="text-[18px]">Staff and families</h2>
			{#if shown.substituting}
				<form onsubmit={shown.enter} class="flex flex-col gap-3">
					<p class="small">The code is on the proctor's sheet. It opens one session.</p>
					<label class="field"
						>Substitute's code<input
							class="input font-mono uppercase"
							bind:value={shown.substitute.code}
							autocomplete="off"
							maxlength="12"
							required
						/></label
					>
					<label class="field"
						>Your name<input
							class="input"
							bind:value={shown.substitute.name}
							autocomplete="name"
							maxlength="60"
							required
						/></label
					>
					<Notice text={shown.staffProblem} />
					<Button type="submit" kind="primary" class="justify-center" disabled={shown.busy}>Open the session</Button>
					<Button kind="quiet" class="self-start px-0" onclick={() => (shown.substituting = false)}
						>Sign in with a password</Button
					>
				</form>
			{:else}<form onsubmit={shown.signIn} class="flex flex-col gap-3">
					<label class="field"
						>Name<input class="input" bind:value={shown.username} autocomplete="username" required /></label
					>
					<label class="field"
						>Password<input
							class="input"
							type="password"
							bind:value={shown.password}
							autocomplete="current-password"
							required
						/></label
					>
					<Checkbox bind:checked={shown.endOthers}>Sign out my other devices</Checkbox>
					<Notice text={shown.staffProblem} />
					<Button type="submit" kind="primary" class="justify-center" disabled={shown.busy}>Sign in</Button>
					<Button kind="quiet" class="self-start px-0" onclick={() => (shown.substituting = true)}>Substitute</Button>
				</form>{/if}
			{#if shown.welcome?.provider}<Button class="justify-center" href="/api/signin/provider" data-sveltekit-reload
					>Sign in with {shown.welcome.provider}</Button
				>{/if}
			{#if shown.welcome?.demo_people.length}
				<div class="border-t border-hair pt-3">
					<p class="small mb-2">This is sample data. Sign in as</p>
					<div class="flex flex-col gap-1.5">
						{#each shown.welcome.demo_people as person (person.username)}
							<Button
								class="justify-between"
								onclick={(e) => {
									shown.username = person.username;
									shown.password = person.password;
									void shown.signIn(e as unknown as SubmitEvent);
								}}
							>
								<span>{person.name}</span><span class="text-ink2">{person.role}</span>
							</Button>
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
