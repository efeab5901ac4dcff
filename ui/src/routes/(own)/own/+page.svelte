<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import { onMount } from 'svelte';
	import { goto, invalidate } from '$app/navigation';
	import { api, body, said, tokens, type Schemas } from '$lib/api/client';
	import { time } from '$lib/words/show';
	import Notice from '$lib/parts/Notice.svelte';
	import { Held } from '$lib/sitting/held';
	import { shelf } from '$lib/sitting/shelf';
	import Review from '$lib/sitting/Review.svelte';
	import Occasions from '$lib/parts/Occasions.svelte';
	import type { PageProps } from './$types';

	/** A student's own page: what is open now, what comes, what was. */
	let { data: loaded }: PageProps = $props();
	const data = $derived(loaded.own);
	let problem = $derived(loaded.problem);
	let busy = $state(false);
	let review = $state<Schemas['ReviewOut'] | null>(null);
	const me = $derived(data?.children[0]);
	const open = $derived(me?.occasions.filter((o) => o.joinable) ?? []);

	onMount(() => {
		const timer = setInterval(() => void invalidate('bildung:own'), 30_000); // a session may open meanwhile
		return () => clearInterval(timer);
	});
	async function start(session_id: string) {
		busy = true;
		try {
			const token = await body(api.POST('/api/own/sessions/{session_id}/join', { params: { path: { session_id } } }));
			tokens.sitting = token.csrf;
			Held.setLeaving(await shelf(), null); // a new sign-in took the place of one that was left without a network
			await goto('/sit');
		} catch (error) {
			problem = said(error).replace('Not accepted: ', '');
		}
		busy = false;
	}
	async function look(session_id: string) {
		try {
			review = await body(api.GET('/api/own/sessions/{session_id}/review', { params: { path: { session_id } } }));
			window.scrollTo(0, 0);
		} catch (error) {
			problem = said(error).replace('Not accepted: ', '');
		}
	}
	async function out() {
		try {
			await api.POST('/api/own/signout');
		} catch {
			/* signed out already */
		}
		await goto('/');
	}
</script>

<svelte:head><title>Your tests</title></svelte:head>

<main class="mx-auto min-h-screen max-w-[640px] px-4 py-5 text-[17px]">
	<header class="mb-5 flex items-center gap-3">
		<img src="/mark.svg" width="26" height="26" alt="" /><b class="min-w-0 flex-1 truncate">{me?.name ?? ''}</b><Button
			class="min-h-[44px]"
			onclick={out}>Sign out</Button
		>
	</header>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if review}
		<Button class="mb-4 min-h-[44px]" onclick={() => (review = null)}>Back to your tests</Button>
		<Review {review} />
	{:else if me && data}
		<h1 class="mb-4 text-[24px]">{me.sentence}</h1>
		{#if data.live}<Panel class="mb-4 border-l-4 border-l-petrol p-5">
				<h2 class="text-[20px]">{data.live} has a live round now</h2>
				<Button kind="primary" class="mt-3 min-h-[52px] w-full justify-center text-[18px]" href="/own/live">Join</Button
				>
			</Panel>{/if}
		{#each open as o (o.session_id)}
			<Panel class="mb-4 border-l-4 border-l-petrol p-5">
				<h2 class="text-[20px]">{o.title}</h2>
				<p class="mt-1 mb-4 text-ink2">
					{o.klass}{o.room ? `, room ${o.room}` : ''}{o.state === 'sat' ? '; submitted, and you may try again' : ''}
				</p>
				<p class="-mt-3 mb-4 text-ink2">
					{o.minutes
						? `${o.minutes} minutes, until ${time(o.end, data.zone)}`
						: `Until ${time(o.end, data.zone)}`}{o.news ? `; ${o.news}` : ''}
				</p>
				{#if o.was}<p class="notch -mt-2 mb-4">{o.was}</p>{/if}
				{#if o.elsewhere}<p class="mb-4 border-l-4 border-petrol pl-3">
						<b>Your test is open on another device. If you go on here, it stops there.</b>
					</p>{/if}
				<Button
					kind="primary"
					class="min-h-[52px] w-full justify-center text-[18px]"
					disabled={busy}
					onclick={() => start(o.session_id)}>{o.elsewhere ? 'Go on here' : 'Start'}</Button
				>
			</Panel>
		{/each}
		<Occasions occasions={me.occasions.filter((o) => !o.joinable)} zone={data.zone} onlook={look} />
	{/if}
</main>
