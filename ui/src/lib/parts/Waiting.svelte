<script lang="ts">
	import { navigating } from '$app/state';
	import { api } from '$lib/api/client';

	/** Says how many pages wait to be calculated, once the next page has been on its way for a while. */
	const PATIENCE = 1500;
	let says = $state('');
	let slow = $state(false);

	async function look() {
		const { data } = await api.GET('/api/waiting');
		says = data?.says ?? '';
	}

	$effect(() => {
		says = '';
		slow = false;
		if (!navigating.to) return;
		const clock = setInterval(() => {
			slow = true;
			void look();
		}, PATIENCE);
		return () => clearInterval(clock);
	});
</script>

<div aria-live="polite">
	{#if slow}<p class="sheet fixed right-4 bottom-4 z-10 max-w-[340px] border border-rule px-4 py-2 text-[14px]">
			Calculating the page. {says}
		</p>{/if}
</div>
