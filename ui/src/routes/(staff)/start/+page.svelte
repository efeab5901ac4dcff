<script lang="ts">
	import { goto } from '$app/navigation';
	import { staff } from '$lib/state/staff.svelte';

	/** To where this person's work is: what was sat, else what they hold. */
	const order = ['/quality', '/sessions', '/tests', '/bank', '/people'];
	$effect(() => {
		const open = order.find((path) => staff.me?.stations.some((s) => s.path === path));
		if (open) void goto(open, { replaceState: true });
	});
</script>
