<script lang="ts">
	import { page } from '$app/state';
	import { staff } from '$lib/state/staff.svelte';

	/** The pages of this station, as words; only what the person may use. */
	let { children } = $props();
	const PAGES = [
		['Directory', '/people', 'people.read'],
		['Classes', '/people/classes', 'classes.read'],
		['Groups and accommodations', '/people/groups', 'groups.read'],
		['Pacing guides', '/people/plans', 'plans.read'],
		['School year', '/people/year', 'years.read'],
		['Roster check', '/people/check', 'people.settle'],
		['Records', '/people/records', 'people.import'],
		['Log', '/people/log', 'log.read'],
		['Settings', '/people/settings', 'settings.change']
	] as const;
	const path = $derived(page.url.pathname);
	const on = (to: string) => (to === '/people' ? path === to || /^\/people\/\d/.test(path) : path.startsWith(to));
</script>

<nav class="mb-3 flex flex-wrap gap-x-4 gap-y-1 border-b border-hair text-[13.5px]" aria-label="People">
	{#each PAGES.filter((p) => staff.may(p[2])) as [name, to] (to)}
		<a
			href={to}
			class="-mb-px border-b-2 py-1.5 hover:text-ink {on(to)
				? 'border-petrol font-semibold text-ink'
				: 'border-transparent text-ink2'}"
			aria-current={on(to) ? 'page' : undefined}>{name}</a
		>
	{/each}
</nav>
{@render children()}
