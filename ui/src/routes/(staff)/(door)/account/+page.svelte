<script lang="ts">
	import { api } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<svelte:head><title>Your account · Bildung</title></svelte:head>

<h1 class="mb-3">
	{#if staff.me?.must_change}Your password was given to you. Choose one of your own to go on.
	{:else}{staff.me?.name}: signed in here{shown.others
			? ` and at ${shown.others} other ${shown.others === 1 ? 'place' : 'places'}`
			: ' only'}.{/if}
</h1>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.done}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{shown.done}</p>{/if}
<div class="grid grid-cols-[340px_minmax(0,1fr)] items-start gap-3">
	<form class="sheet flex flex-col gap-3 p-4" onsubmit={shown.change}>
		<h2>Change your password</h2>
		<label class="field"
			>Password now<input
				class="input"
				type="password"
				bind:value={shown.old}
				autocomplete="current-password"
				required
			/></label
		>
		<label class="field"
			>New password, 10 characters or more<input
				class="input"
				type="password"
				bind:value={shown.fresh}
				autocomplete="new-password"
				minlength="10"
				required
			/></label
		>
		<label class="field"
			>The new one again<input
				class="input"
				type="password"
				bind:value={shown.again}
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
					{#each shown.list as s (s.id)}
						<tr>
							<td title={s.device}>{shown.device(s.device)}</td>
							<td>{dateTime(s.created_at, shown.zone)}</td>
							<td>{s.here ? 'now, here' : s.seen_at ? dateTime(s.seen_at, shown.zone) : ''}</td>
							<td class="n"
								>{#if !s.here}<button class="btn quiet" onclick={() => shown.end(s.id)}>Sign out there</button>{/if}</td
							>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if shown.colleagues && staff.may('classes.run') && staff.me?.roles.includes('teacher')}
				<div class="border-t border-hair px-3 py-3 text-[14px]">
					<h2>Colleagues</h2>
					<p class="small mb-1">
						Whom you show your classes sees their students, sessions and answers by name, and changes nothing.
					</p>
					{#each shown.colleagues.colleagues as c (c.id)}
						<div class="flex items-center gap-2">
							<span class="flex-1">{c.mine ? `${c.name} sees your classes` : `${c.name} shows you ${c.classes}`}</span
							>{#if c.mine}<button
									class="btn quiet"
									onclick={() =>
										shown.show(
											api.DELETE('/api/me/colleagues/{consent_id}', { params: { path: { consent_id: c.id } } })
										)}>Take back</button
								>{/if}
						</div>
					{:else}<div class="text-ink2">You show your classes to nobody, and nobody shows you theirs.</div>{/each}
					<div class="mt-2 flex gap-2">
						<select class="input !mt-0 !w-auto" aria-label="Colleague" bind:value={shown.asked}
							><option value="">choose a colleague</option>{#each shown.colleagues.could_ask as c (c.id)}<option
									value={c.id}>{c.name}</option
								>{/each}</select
						>
						<button
							class="btn"
							disabled={!shown.asked}
							onclick={() => shown.show(api.POST('/api/me/colleagues', { body: { person_id: shown.asked } }))}
							>Show them my classes</button
						>
					</div>
				</div>
			{/if}
			<p class="small border-t border-hair p-2">A screen left alone for an hour signs itself out.</p>
		</section>
	{/if}
</div>
