<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { findings, type Finding } from '$lib/sitting/device';
	import { onMount } from 'svelte';

	/** Whether a device is fit for a test, for whoever sets it up. */
	let found = $state<Finding[] | null>(null);
	const bad = $derived((found ?? []).filter((f) => !f.good).length);

	async function look() {
		found = null;
		found = await findings();
	}
	onMount(() => void look());
</script>

<svelte:head><title>Device check</title></svelte:head>

<main class="mx-auto flex min-h-screen max-w-[640px] flex-col px-5 py-8 text-[17px]" aria-busy={found === null}>
	<h1 class="text-[26px]">
		{#if found === null}Checking this device …{:else if bad === 0}This device is ready.{:else}{bad === 1
				? 'One thing to know about this device.'
				: `${bad} things to know about this device.`}{/if}
	</h1>
	<dl class="mt-5 border-t border-hair">
		{#each found ?? [] as line (line.name)}
			<div class="grid gap-x-5 border-b border-hair py-3 sm:grid-cols-[190px_1fr]">
				<dt class={line.good ? 'text-ink2' : 'font-bold'}>{line.name}</dt>
				<dd class="m-0 {line.good ? '' : 'border-l-4 border-vermilion pl-3'}">{line.says}</dd>
			</div>
		{/each}
	</dl>
	<div class="mt-6 flex flex-wrap gap-3">
		<Button kind="primary" class="min-h-[48px] px-6 text-[17px]" href="/">Go to the start page</Button>
		<Button class="min-h-[48px] px-5 text-[17px]" disabled={found === null} onclick={look}>Check again</Button>
	</div>
</main>
