<script lang="ts">
	import type { Order } from './order';

	/** The head of a column that rows can be put in order by: once up, again down. */
	let {
		by,
		order,
		class: extra = '',
		onorder,
		children
	}: {
		by: string;
		order: Order;
		class?: string;
		onorder: (to: Order) => void;
		children: import('svelte').Snippet;
	} = $props();
	const here = $derived(order.by === by);
</script>

<th class={extra} aria-sort={here ? (order.down ? 'descending' : 'ascending') : undefined}
	><button
		class="word no-underline hover:!underline {here ? 'font-bold text-ink' : ''}"
		type="button"
		onclick={() => onorder({ by, down: here && !order.down })}
		>{@render children()}{#if here}<span aria-hidden="true">{order.down ? ' ↓' : ' ↑'}</span>{/if}</button
	></th
>
