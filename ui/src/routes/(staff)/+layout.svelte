<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { afterNavigate, goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api } from '$lib/api/client';
	import Questions from '$lib/design/Questions.svelte';
	import Toasts from '$lib/design/Toasts.svelte';
	import Palette from '$lib/parts/Palette.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Waiting from '$lib/parts/Waiting.svelte';
	import YearLine from '$lib/parts/YearLine.svelte';
	import { fields, keysHere } from '$lib/state/keys.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { Frame } from './frame.svelte';
	import type { LayoutProps } from './$types';

	/** Year line above, rail at the left, the page beside it. */
	let { children, data }: LayoutProps = $props();
	let problem = $derived(data.problem);
	const frame = new Frame();
	const chosen = $derived(staff.window(page.url.searchParams.get('window')));
	const here = (what: string) => !!document.querySelector(what);

	afterNavigate(() => (frame.keysShown = false));

	async function signOut() {
		await api.POST('/api/signout');
		staff.me = null;
		await goto('/');
	}
</script>

<svelte:window onkeydown={frame.keys} onpointerdown={(e) => fields.use(e.target)} />

{#if staff.me}
	<a href="#page" class="sr-only focus:not-sr-only focus:absolute focus:z-10 focus:bg-sheet focus:p-2">To the page</a>
	<div class="flex min-h-screen flex-col">
		<header class="flex min-h-[52px] items-stretch bg-sheet max-[760px]:flex-wrap">
			<a
				href={frame.keep('/today')}
				class="ground flex w-[140px] flex-none items-center gap-2 pb-[17px] pl-4 text-[17px] font-bold"
				><img src="/mark.svg" width="24" height="24" alt="" />Bildung</a
			>
			<div class="flex h-[52px] min-w-0 flex-1 max-[760px]:order-last max-[760px]:basis-full">
				{#if staff.calendar}<YearLine
						calendar={staff.calendar}
						chosen={chosen?.id ?? null}
						onchoose={frame.chooseWindow}
					/>{:else}<span class="ground flex-1"></span>{/if}
			</div>
			<div
				class="ground flex h-[52px] flex-none items-center gap-0.5 px-3 max-[760px]:flex-1 max-[760px]:justify-end pb-[17px] text-[13px] text-ink2"
			>
				{#if staff.me.stations.length}<Button
						kind="quiet"
						title="Search everything (/)"
						onclick={() => (frame.finding = true)}>Search</Button
					>{/if}
				<Button
					kind="quiet"
					aria-pressed={staff.veiled}
					title="Hide all names (Shift+V)"
					onclick={() => staff.toggleVeil()}>{staff.veiled ? 'Names hidden' : 'Hide names'}</Button
				>
				<Button
					kind="quiet"
					title="Keyboard shortcuts (?)"
					aria-expanded={frame.keysShown}
					onclick={() => (frame.keysShown = !frame.keysShown)}>Shortcuts</Button
				>
				{#if !staff.me.stations.length}<b class="ml-1 max-w-[150px] truncate font-semibold text-ink">{staff.me.name}</b
					>{:else}<a
						href="/account"
						class="ml-1 max-w-[150px] truncate font-semibold text-ink hover:underline"
						title="Your account ({staff.me.roles.join(', ')})">{staff.me.name}</a
					>{/if}
				<Button kind="quiet" onclick={signOut}>Sign out</Button>
			</div>
		</header>
		<div class="flex flex-1">
			<nav class="w-[140px] flex-none py-4 text-[14px]" aria-label="Stations">
				{#each staff.me.must_change ? [] : staff.me.stations as station (station.path)}
					{@const on = page.url.pathname.startsWith(station.path)}
					<a
						href={frame.keep(station.path)}
						class="flex items-baseline border-l-[3px] px-4 py-1.5 hover:text-ink {on
							? 'border-petrol font-semibold text-ink'
							: 'border-transparent text-ink2'}"
						aria-current={on ? 'page' : undefined}
						><span class="flex-1">{station.name}</span>{#if frame.going}<kbd aria-hidden="true">{station.letter}</kbd
							>{/if}</a
					>
				{/each}
			</nav>
			<main id="page" class="min-w-0 flex-1 py-4 pr-5 pl-2">
				<Notice text={problem} />
				{@render children()}
			</main>
		</div>
	</div>
	{#if frame.keysShown}
		<section class="list fixed right-5 bottom-5 w-80 p-4 text-[13px]" aria-labelledby="shortcuts">
			<h2 id="shortcuts" class="mb-2">Keyboard shortcuts</h2>
			{#if staff.letterKeys}
				<dl class="grid grid-cols-[84px_1fr] gap-y-1">
					<dt><kbd>/</kbd></dt>
					<dd>find anything</dd>
					{#if here('[data-find]')}<dt><kbd>f</kbd></dt>
						<dd>search on this page</dd>{/if}
					{#if here('[data-row]')}
						<dt><kbd>j</kbd> <kbd>k</kbd></dt>
						<dd>next and previous row</dd>
						<dt><kbd>Enter</kbd></dt>
						<dd>open the row</dd>
					{/if}
					{#each keysHere.all as [key, does] (key + does)}<dt><kbd>{key}</kbd></dt>
						<dd>{does}</dd>{/each}
					{#each staff.me.stations as station (station.path)}<dt><kbd>g</kbd> <kbd>{station.letter}</kbd></dt>
						<dd>go to {station.name}</dd>{/each}
					<dt><kbd>Shift</kbd> <kbd>V</kbd></dt>
					<dd>hide all names</dd>
					<dt><kbd>Esc</kbd></dt>
					<dd>close</dd>
				</dl>
			{:else}<p>One-letter shortcuts are off. <a class="word" href="/account">Turn them on in your account</a>.</p>{/if}
		</section>
	{/if}
	<Palette bind:open={frame.finding} keep={frame.keep} />
	<Questions />
	<Waiting />
	<Toasts />
{:else if problem}
	<main class="p-8"><Notice text={problem} /></main>
{/if}

<style>
	/* the year line's ground runs the full width */
	.ground {
		background: linear-gradient(
			to bottom,
			var(--color-sheet) 34.3px,
			var(--color-petrol) 34.3px 35.7px,
			var(--color-paper) 35.7px
		);
	}
</style>
