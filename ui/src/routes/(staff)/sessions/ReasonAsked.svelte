<script lang="ts">
	/** What speaks against a session, and the reason to schedule it all the same. */
	let { says, why = $bindable(), class: extra = '' }: { says: string; why: string; class?: string } = $props();
</script>

{#if says}
	<div class="border-l-4 border-vermilion pl-3 {extra}" role="alert">
		<p class="mb-1 text-[14px]">{says}</p>
		<label class="field max-w-[520px]"
			>Reason (kept in the log)<input class="input" maxlength="300" required bind:value={why} /></label
		>
	</div>
{/if}
