<script lang="ts">
	import { staff } from '$lib/state/staff.svelte';

	/** A student's name, or the alias while names are hidden; it leads to their page, for whoever sees people. */
	let { person, name, alias }: { person: string; name: string; alias: number } = $props();
</script>

{#if staff.may('people.read')}<a class="word" href="/people/{person}" onclick={(e) => e.stopPropagation()}
		>{staff.name(name, alias)}</a
	>{:else}{staff.name(name, alias)}{/if}
