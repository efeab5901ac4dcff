<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { goto, invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import Review from '$lib/sitting/Review.svelte';
	import Occasions from '$lib/parts/Occasions.svelte';
	import type { PageProps } from './$types';

	/** A family's page: each of their children, in plain sentences. */
	let { data: loaded }: PageProps = $props();
	const data = $derived(loaded.family);
	let problem = $derived(loaded.problem);
	let old = $state('');
	let fresh = $state('');
	let again = $state('');
	let changing = $state(false);
	let review = $state<Schemas['ReviewOut'] | null>(null);

	async function change(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		if (fresh !== again) return void (problem = 'The two new passwords do not match.');
		try {
			await api.PUT('/api/family/password', { body: { old, new: fresh } });
			old = fresh = again = '';
			changing = false;
			await invalidate('bildung:family');
		} catch (error) {
			problem = said(error).replace('Not accepted: ', '');
		}
	}
	async function look(child: string, session_id: string) {
		try {
			review = await body(
				api.GET('/api/family/children/{child}/sessions/{session_id}/review', {
					params: { path: { child, session_id } }
				})
			);
			window.scrollTo(0, 0);
		} catch (error) {
			problem = said(error).replace('Not accepted: ', '');
		}
	}
	async function out() {
		try {
			await api.POST('/api/family/signout');
		} catch {
			/* signed out already */
		}
		await goto('/');
	}
</script>

<svelte:head><title>Your children's tests</title></svelte:head>

<main class="mx-auto min-h-screen max-w-[680px] px-4 py-5 text-[17px]">
	<header class="mb-5 flex flex-wrap items-center gap-3">
		<img src="/mark.svg" width="26" height="26" alt="" /><b class="min-w-0 flex-1 truncate">{data?.name ?? ''}</b>
		{#if data && !data.must_change}<Button class="min-h-[44px]" onclick={() => (changing = !changing)}>Password</Button
			>{/if}
		<Button class="min-h-[44px]" onclick={out}>Sign out</Button>
	</header>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if data?.must_change || changing}
		<form class="sheet mb-5 flex flex-col gap-3 p-5" onsubmit={change}>
			<h1>
				{data?.must_change
					? 'Your password was given to you. Choose one of your own to go on.'
					: 'Choose a new password'}
			</h1>
			<label class="block text-[16px]"
				>Current password<input
					class="input min-h-[46px]"
					type="password"
					autocomplete="current-password"
					bind:value={old}
					required
				/></label
			>
			<label class="block text-[16px]"
				>New password (at least 10 characters)<input
					class="input min-h-[46px]"
					type="password"
					autocomplete="new-password"
					minlength="10"
					bind:value={fresh}
					required
				/></label
			>
			<label class="block text-[16px]"
				>Repeat the new password<input
					class="input min-h-[46px]"
					type="password"
					autocomplete="new-password"
					bind:value={again}
					required
				/></label
			>
			<Button type="submit" kind="primary" class="min-h-[48px] justify-center text-[17px]">Change password</Button>
		</form>
	{/if}
	{#if review}
		<Button class="mb-4 min-h-[44px]" onclick={() => (review = null)}>Back to the tests</Button>
		<Review {review} />
	{:else if data && !data.must_change}
		{#each data.children as child (child.id)}
			<section class="mb-7">
				<p class="text-[15px] text-ink2">{child.name}, grade {child.grade}, {child.school}</p>
				<h1 class="mb-3 text-[23px]">{child.sentence}</h1>
				<Occasions occasions={child.occasions} zone={data.zone} onlook={(session) => void look(child.id, session)} />
				{#if child.classes.length}<p class="mt-2 text-[15px] text-ink2">In {child.classes.join(', ')}.</p>{/if}
			</section>
		{:else}<p>No child is linked to this account yet. Ask the school.</p>{/each}
	{/if}
</main>
