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
	let list = $state<Schemas['SignInOut'][]>([]);
	const zone = $derived(staff.calendar?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
	const others = $derived(list.filter((s) => !s.here).length);

	onMount(load);
	async function load() {
		try {
			list = await body(api.GET('/api/me/sign-ins'));
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
	{:else}{staff.me?.name}: signed in here{others ? ` and at ${others} other ${others === 1 ? 'place' : 'places'}` : ' only'}.{/if}
</h1>
<Notice text={problem} onclose={() => (problem = '')} />
{#if done}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{done}</p>{/if}
<div class="grid grid-cols-[340px_minmax(0,1fr)] items-start gap-3">
	<form class="sheet flex flex-col gap-3 p-4" onsubmit={change}>
		<h2>Change your password</h2>
		<label class="field">Password now<input class="input" type="password" bind:value={old} autocomplete="current-password" required /></label>
		<label class="field">New password, 10 characters or more<input class="input" type="password" bind:value={fresh} autocomplete="new-password" minlength="10" required /></label>
		<label class="field">The new one again<input class="input" type="password" bind:value={again} autocomplete="new-password" required /></label>
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
							<td class="n">{#if !s.here}<button class="btn quiet" onclick={() => end(s.id)}>Sign out there</button>{/if}</td>
						</tr>
					{/each}
				</tbody>
			</table>
			<p class="small border-t border-hair p-2">A screen left alone for an hour signs itself out.</p>
		</section>
	{/if}
</div>
