<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import { page } from '$app/state';
	import { body, api, plainly, type Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';
	import Scope from './Scope.svelte';
	import { address } from './address.svelte';

	/** Every question of the workbench under one head: what is looked at, and what can be asked of it. */
	let { children } = $props();
	let scope = $state<Schemas['ScopeChoices'] | null>(null);
	let problem = $state('');
	let asked = 0;

	const QUESTIONS: [string, string, string][] = [
		['/quality/look', 'Items', 'items to review'],
		['/quality/look/grid', 'Answers', 'who answered what'],
		['/quality/look/classes', 'Compare', 'the question or the teaching'],
		['/quality/look/groups', 'Groups', 'fair to all groups'],
		['/quality/look/mistakes', 'Shared errors', 'misconceptions'],
		['/quality/look/effort', 'Time', 'enough time, real effort'],
		['/quality/look/trust', 'Technical quality', 'reliability'],
		['/quality/look/reteach', 'Reteach', 'standards and students'],
		['/quality/look/reports', 'Reports', 'print and save']
	];
	const here = $derived(page.url.pathname.replace(/\/$/, ''));
	const on = (path: string) => here === path || (path === '/quality/look' && here === '/quality/look/item');

	$effect(() => {
		void address.key;
		const mine = ++asked;
		body(api.GET('/api/quality/scope', { params: { query: address.scope } }))
			.then((answer) => {
				if (mine === asked) [scope, problem] = [answer, ''];
			})
			.catch((error) => {
				if (mine === asked) problem = plainly(error);
			});
	});
</script>

{#if problem && !scope}<p class="small mb-1"><a class="word" href="/quality">Item quality</a></p>
	<Finding of="Item quality">{problem}</Finding>
{:else}
	<Scope {scope} {problem} />
	<nav class="mb-3 flex flex-wrap gap-x-1 border-b border-hair" aria-label="Questions">
		{#each QUESTIONS as [path, name, says] (path)}
			{#if path !== '/quality/look/reteach' || staff.may('answers.read')}
				<a
					href={address.href(path)}
					title={says}
					aria-current={on(path) ? 'page' : undefined}
					class="min-h-[28px] rounded-t px-2.5 py-1 text-[13.5px] {on(path)
						? 'border-b-2 border-petrol font-semibold text-ink'
						: 'text-ink2 hover:text-ink'}">{name}</a
				>
			{/if}
		{/each}
	</nav>
	{@render children()}
{/if}
