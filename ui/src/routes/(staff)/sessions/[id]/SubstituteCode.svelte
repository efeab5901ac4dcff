<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { SessionPage } from './session.svelte';

	/** The code that opens this one session to a substitute, and who came in with it. */
	let { shown }: { shown: SessionPage } = $props();
	const data = $derived(shown.data!);
</script>

<div class="mt-2 border-t border-hair2 pt-2 text-[14px]">
	{#if data.substitute_code}
		<div class="small">Substitute's code</div>
		<div class="font-mono text-[17px] tracking-[0.1em]">{staff.veiled ? '········' : data.substitute_code}</div>
		<p class="small">
			Opens this session only, from 30 minutes before it begins until it is closed. {data.substitutes.length
				? `Used by ${data.substitutes.join(', ')}.`
				: ''}
		</p>
		<Button kind="quiet" class="px-0" onclick={shown.withdrawSubstitute}>Withdraw the code</Button>
	{:else}<Button kind="quiet" class="px-0" onclick={shown.makeSubstitute}>Code for a substitute</Button>{/if}
</div>
