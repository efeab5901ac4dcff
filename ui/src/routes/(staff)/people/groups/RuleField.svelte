<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';

	/** A rule, tried while it is written: whom it would fit now. */
	let {
		rule = $bindable(''),
		tried = $bindable(null),
		allowed
	}: { rule: string; tried: Schemas['TriedRule'] | null; allowed: string } = $props();
	let asked = 0;

	$effect(() => {
		const text = rule;
		const timer = setTimeout(async () => {
			if (!text.trim()) return void (tried = null);
			const mine = ++asked;
			try {
				const answer = await body(api.POST('/api/groups/try', { body: { rule: text, school_id: null } }));
				if (mine === asked) tried = answer;
			} catch (error) {
				if (mine === asked) tried = { members: [], total: 0, problem: said(error) };
			}
		}, 250);
		return () => clearTimeout(timer);
	});
</script>

<label class="field"
	>Rule<input
		class="input font-mono"
		bind:value={rule}
		maxlength="400"
		placeholder="grade 6 and extra time"
		spellcheck="false"
		autocomplete="off"
	/></label
>
<p class="text-[13.5px]" role="status">
	{#if tried?.problem}<span class="text-vermilion">{tried.problem.split('; allowed')[0]}</span>
	{:else if tried}<b>{tried.total}</b>
		{tried.total === 1 ? 'student fits' : 'students fit'} now{#if tried.total}: {tried.members
				.slice(0, 8)
				.map((m, at) => staff.name(m.name, at))
				.join(', ')}{tried.total > 8 ? ' …' : ''}{/if}
	{:else}<span class="small">{allowed}.</span>{/if}
</p>
