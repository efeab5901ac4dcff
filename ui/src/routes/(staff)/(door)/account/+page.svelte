<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';

	/** One's own password and the places one is signed in at. */
	let old = $state('');
	let fresh = $state('');
	let again = $state('');
	let problem = $state('');
	let done = $state('');
	let list = $state<Schemas['SignInLine'][]>([]);
	const zone = $derived(staff.calendar?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
	const others = $derived(list.filter((s) => !s.here).length);

	let colleagues = $state<Schemas['ColleaguesOut'] | null>(null);
	let asked = $state('');
	async function show(work: Promise<unknown>) {
		try {
			await work;
			asked = '';
			await load();
		} catch (error) {
			problem = said(error);
		}
	}

	onMount(load);
	async function load() {
		try {
			list = await body(api.GET('/api/me/sign-ins'));
			if (staff.may('classes.read') && !staff.me?.must_change) colleagues = await body(api.GET('/api/me/colleagues'));
		} catch (error) {
			problem = said(error);
		}
	}

	async function change(event: SubmitEvent) {
		event.preventDefault();
		problem = done = '';
		if (fresh !== again) return void (problem = 'The two new passwords are not the same.');
		const first = staff.me?.must_change ?? false;
		try {
			await api.PUT('/api/me/password', { body: { old, new: fresh } });
			old = fresh = again = '';
			done = 'Your password is changed; you are signed out everywhere else.';
			await staff.load();
			if (first) await goto('/start');
			else await load();
		} catch (error) {
			problem = said(error).replace('Not accepted: ', '');
		}
	}

	async function end(id: string) {
		try {
			await api.DELETE('/api/me/sign-ins/{sign_in_id}', { params: { path: { sign_in_id: id } } });
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
	/** The browser and system out of what a browser calls itself. */
	function device(text: string) {
		const browser = /(Firefox|Edg|Chrome|Safari)/.exec(text)?.[1] ?? 'a browser';
		const system = /(Windows|Mac OS|Android|iPhone|iPad|Linux)/.exec(text)?.[1];
		return `${browser === 'Edg' ? 'Edge' : browser}${system ? ` on ${system}` : ''}`;
	}
</script>

<svelte:head><title>Your account · Bildung</title></svelte:head>

<h1 class="mb-3">
	{#if staff.me?.must_change}Your password was given to you. Choose one of your own to go on.
	{:else}{staff.me?.name}: signed in here{others
			? ` and at ${others} other ${others === 1 ? 'place' : 'places'}`
			: ' only'}.{/if}
</h1>
<Notice text={problem} onclose={() => (problem = '')} />
{#if done}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{done}</p>{/if}
<div class="grid grid-cols-[340px_minmax(0,1fr)] items-start gap-3">
	<form class="sheet flex flex-col gap-3 p-4" onsubmit={change}>
		<h2>Change your password</h2>
		<label class="field"
			>Password now<input
				class="input"
				type="password"
				bind:value={old}
				autocomplete="current-password"
				required
			/></label
		>
		<label class="field"
			>New password, 10 characters or more<input
				class="input"
				type="password"
				bind:value={fresh}
				autocomplete="new-password"
				minlength="10"
				required
			/></label
		>
		<label class="field"
			>The new one again<input
				class="input"
				type="password"
				bind:value={again}
				autocomplete="new-password"
				required
			/></label
		>
		<button class="btn primary self-start">Change it</button>
	</form>
	{#if !staff.me?.must_change}
		<section class="sheet" aria-label="Where you are signed in">
			<table>
				<thead><tr><th>Signed in with</th><th>Since</th><th>Last used</th><th></th></tr></thead>
				<tbody>
					{#each list as s (s.id)}
						<tr>
							<td title={s.device}>{device(s.device)}</td>
							<td>{dateTime(s.created_at, zone)}</td>
							<td>{s.here ? 'now, here' : s.seen_at ? dateTime(s.seen_at, zone) : ''}</td>
							<td class="n"
								>{#if !s.here}<button class="btn quiet" onclick={() => end(s.id)}>Sign out there</button>{/if}</td
							>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if colleagues && staff.may('classes.run') && staff.me?.roles.includes('teacher')}
				<div class="border-t border-hair px-3 py-3 text-[14px]">
					<h2>Colleagues</h2>
					<p class="small mb-1">
						Whom you show your classes sees their students, sessions and answers by name, and changes nothing.
					</p>
					{#each colleagues.colleagues as c (c.id)}
						<div class="flex items-center gap-2">
							<span class="flex-1">{c.mine ? `${c.name} sees your classes` : `${c.name} shows you ${c.classes}`}</span
							>{#if c.mine}<button
									class="btn quiet"
									onclick={() =>
										show(api.DELETE('/api/me/colleagues/{consent_id}', { params: { path: { consent_id: c.id } } }))}
									>Take back</button
								>{/if}
						</div>
					{:else}<div class="text-ink2">You show your classes to nobody, and nobody shows you theirs.</div>{/each}
					<div class="mt-2 flex gap-2">
						<select class="input !mt-0 !w-auto" aria-label="Colleague" bind:value={asked}
							><option value="">choose a colleague</option>{#each colleagues.could_ask as c (c.id)}<option value={c.id}
									>{c.name}</option
								>{/each}</select
						>
						<button
							class="btn"
							disabled={!asked}
							onclick={() => show(api.POST('/api/me/colleagues', { body: { person_id: asked } }))}
							>Show them my classes</button
						>
					</div>
				</div>
			{/if}
			<p class="small border-t border-hair p-2">A screen left alone for an hour signs itself out.</p>
		</section>
	{/if}
</div>
