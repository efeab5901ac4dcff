<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	/** A plain question in the page before something is lost: names the loss, may ask for the reason. */
	let {
		label,
		question,
		yes,
		reason = '',
		quiet = false,
		disabled = false,
		onyes
	}: {
		label: string;
		question: string;
		yes: string;
		/** what the reason is for; with one, it must be given */
		reason?: string;
		quiet?: boolean;
		disabled?: boolean;
		onyes: (why: string) => void | Promise<void>;
	} = $props();

	let open = $state(false);
	let why = $state('');
	let box = $state<HTMLElement>();
	const ready = $derived(!reason || why.trim() !== '');

	$effect(() => {
		if (open) box?.querySelector<HTMLElement>('input, button')?.focus();
	});

	async function go(event: Event) {
		event.preventDefault();
		if (!ready) return;
		open = false;
		await onyes(why.trim());
		why = '';
	}
</script>

<svelte:window onkeydown={(e) => open && e.key === 'Escape' && (open = false)} />

{#if !open}
	<Button kind={quiet ? 'quiet' : 'plain'} {disabled} onclick={() => (open = true)}>{label}</Button>
{:else}
	<form
		bind:this={box}
		class="flex w-full flex-wrap items-end gap-2 rounded-[4px] border border-relief3 bg-wash px-3 py-2 text-left text-[13.5px]"
		onsubmit={go}
	>
		<span class="basis-full">{question}</span>
		{#if reason}<label class="field min-w-[200px] flex-1"
				>{reason}<input class="input" bind:value={why} maxlength="500" required /></label
			>{/if}
		<Button type="submit" kind="primary" disabled={!ready}>{yes}</Button>
		<Button onclick={() => (open = false)}>Cancel</Button>
	</form>
{/if}
