<script lang="ts">
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
		['/quality/look', 'Items', 'what wants a look'],
		['/quality/look/grid', 'Answers', 'who answered what'],
		['/quality/look/classes', 'Side by side', 'the question or the teaching'],
		['/quality/look/groups', 'Groups', 'does it work alike for all'],
		['/quality/look/mistakes', 'Same mistakes', 'what they think'],
		['/quality/look/effort', 'Time', 'was there enough, was it meant'],
		['/quality/look/trust', 'Trust', 'how far the total goes'],
		['/quality/look/reteach', 'Teach again', 'what, and whom'],
		['/quality/look/reports', 'Reports', 'to print and to keep']
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
	<h1>{problem}</h1>
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
