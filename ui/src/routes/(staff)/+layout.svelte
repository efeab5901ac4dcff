<script lang="ts">
	import { afterNavigate, goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import YearLine from '$lib/parts/YearLine.svelte';
	import { fields, keysHere } from '$lib/state/keys.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { LayoutProps } from './$types';

	/** Year line above, rail at the left, the page beside it. Keys: / ? g j k Enter Shift+V. */
	let { children, data }: LayoutProps = $props();
	let problem = $derived(data.problem);
	let keysShown = $state(false);
	let going = false;

	const chosen = $derived(staff.window(page.url.searchParams.get('window')));

	afterNavigate(() => (keysShown = false));

	function choose(id: string) {
		const url = new URL(page.url);
		url.searchParams.set('window', id);
		if (url.pathname.startsWith('/quality/') || /^\/sessions\/\d/.test(url.pathname)) {
			url.pathname = url.pathname.startsWith('/quality/') ? '/quality' : '/sessions';
			url.search = `?window=${id}`;
		}
		void goto(url, { keepFocus: true, noScroll: true });
	}

	const here = (what: string) => !!document.querySelector(what);
	const keep = (path: string) => {
		const id = page.url.searchParams.get('window');
		return id ? `${path}?window=${id}` : path;
	};

	async function signOut() {
		await api.POST('/api/signout');
		staff.me = null;
		await goto('/');
	}

	function keys(event: KeyboardEvent) {
		const target = event.target as HTMLElement;
		if (event.key === '/' && target.matches('input') && !fields.inUse(target) && !(target as HTMLInputElement).value) {
			event.preventDefault(); // the page put the focus there; nobody is writing yet
			return document.querySelector<HTMLElement>('[data-find]')?.focus();
		}
		if (event.key === 'Tab') setTimeout(() => fields.use(document.activeElement));
		else if (event.key.length === 1) fields.use(target);
		if (
			target.matches('input, textarea, select') ||
			target.closest('[contenteditable=true], math-field') ||
			event.ctrlKey ||
			event.metaKey ||
			event.altKey
		)
			return;
		if (event.key === 'V' && event.shiftKey) return staff.toggleVeil();
		if (event.key === '?') return (keysShown = !keysShown);
		if (event.key === 'Escape') keysShown = false;
		if (event.key === '/') {
			event.preventDefault();
			return document.querySelector<HTMLElement>('[data-find]')?.focus();
		}
		if (going) {
			going = false;
			const station = staff.me?.stations.find((s) => s.name[0]?.toLowerCase() === event.key.toLowerCase());
			if (station) return void goto(keep(station.path));
		}
		if (event.key === 'g') {
			going = true;
			setTimeout(() => (going = false), 1500);
		}
		if (event.key === 'j' || event.key === 'k') {
			const rows = [...document.querySelectorAll<HTMLElement>('[data-row]')];
			const now = rows.indexOf(document.activeElement as HTMLElement);
			rows[Math.max(0, Math.min(rows.length - 1, now + (event.key === 'j' ? 1 : -1)))]?.focus();
		}
		if (event.key === 'Enter' && target.matches('[data-row]')) target.click();
	}
</script>

<svelte:window onkeydown={keys} onpointerdown={(e) => fields.use(e.target)} />

{#if staff.me}
	<a href="#page" class="sr-only focus:not-sr-only focus:absolute focus:z-10 focus:bg-sheet focus:p-2">To the page</a>
	<div class="flex min-h-screen flex-col">
		<header class="flex h-[52px] items-stretch bg-sheet">
			<a href="/start" class="ground flex w-[140px] flex-none items-center gap-2 pb-[17px] pl-4 text-[17px] font-bold"
				><img src="/mark.svg" width="24" height="24" alt="" />Bildung</a
			>
			{#if staff.calendar}<YearLine
					calendar={staff.calendar}
					chosen={chosen?.id ?? null}
					onchoose={choose}
				/>{:else}<span class="ground flex-1"></span>{/if}
			<div class="ground flex flex-none items-center gap-0.5 px-3 pb-[17px] text-[13px] text-ink2">
				<button
					class="btn quiet"
					aria-pressed={staff.veiled}
					title="Hide all names (Shift+V)"
					onclick={() => staff.toggleVeil()}>{staff.veiled ? 'Veil is on' : 'Veil'}</button
				>
				<button class="btn quiet" title="Keys of this page (?)" onclick={() => (keysShown = !keysShown)}>Keys</button>
				<a
					href="/account"
					class="ml-1 max-w-[150px] truncate font-semibold text-ink hover:underline"
					title="Your account ({staff.me.roles.join(', ')})">{staff.me.name}</a
				>
				<button class="btn quiet" onclick={signOut}>Sign out</button>
			</div>
		</header>
		<div class="flex flex-1">
			<nav class="w-[140px] flex-none py-4 text-[14px]" aria-label="Stations">
				{#each staff.me.must_change ? [] : staff.me.stations as station (station.path)}
					{@const on = page.url.pathname.startsWith(station.path)}
					<a
						href={keep(station.path)}
						class="block border-l-[3px] px-4 py-1.5 hover:text-ink {on
							? 'border-petrol font-semibold text-ink'
							: 'border-transparent text-ink2'}"
						aria-current={on ? 'page' : undefined}>{station.name}</a
					>
				{/each}
			</nav>
			<main id="page" class="min-w-0 flex-1 py-4 pr-5 pl-2">
				<Notice text={problem} />
				{@render children()}
			</main>
		</div>
	</div>
	{#if keysShown}
		<div
			class="sheet fixed right-5 bottom-5 z-20 w-72 p-4 text-[13px] shadow-lg"
			role="dialog"
			aria-label="Keys of this page"
		>
			<h2 class="mb-2">Keys</h2>
			<dl class="grid grid-cols-[84px_1fr] gap-y-1">
				{#if here('[data-find]')}<dt><code>/</code></dt>
					<dd>find</dd>{/if}
				{#if here('[data-row]')}
					<dt><code>j</code> <code>k</code></dt>
					<dd>next and previous row</dd>
					<dt><code>Enter</code></dt>
					<dd>open the row</dd>
				{/if}
				{#each keysHere.all as [key, does] (key + does)}<dt><code>{key}</code></dt>
					<dd>{does}</dd>{/each}
				{#each staff.me.stations as station (station.path)}<dt><code>g {station.name[0]?.toLowerCase()}</code></dt>
					<dd>to {station.name}</dd>{/each}
				<dt><code>Shift+V</code></dt>
				<dd>veil all names</dd>
				<dt><code>Esc</code></dt>
				<dd>close this</dd>
			</dl>
		</div>
	{/if}
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
