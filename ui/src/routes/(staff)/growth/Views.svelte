<script lang="ts">
	/** The views of one measure; the one that is open is not a link. */
	let {
		measure,
		now,
		pair = '',
		at = ''
	}: {
		measure: string;
		now: 'growth' | 'levels' | 'projection' | 'cuts';
		/** query of the view of two windows, where it is known */
		pair?: string;
		/** the occasion that is looked at */
		at?: string;
	} = $props();
	const views = $derived([
		{ key: 'growth', label: 'Two windows', href: pair ? `/growth/${measure}?${pair}` : `/growth/${measure}` },
		{ key: 'levels', label: 'Levels', href: `/growth/${measure}/levels${at ? `?at=${at}` : ''}` },
		{ key: 'projection', label: 'Projection and goals', href: `/growth/${measure}/projection${at ? `?at=${at}` : ''}` },
		{ key: 'cuts', label: 'Cut scores', href: `/growth/${measure}/cuts` }
	]);
</script>

<nav class="mb-1 flex flex-wrap gap-x-4 text-[13.5px]" aria-label="Views of this measure">
	<a class="word" href="/growth">Growth</a>
	{#each views as view (view.key)}
		{#if view.key === now}<span class="font-semibold" aria-current="page">{view.label}</span>
		{:else}<a class="word" href={view.href}>{view.label}</a>{/if}
	{/each}
</nav>
