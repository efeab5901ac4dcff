<script lang="ts">
	import { Button } from 'bits-ui';
	import type { HTMLAnchorAttributes, HTMLButtonAttributes } from 'svelte/elements';

	type Props = Omit<HTMLButtonAttributes, 'onclick' | 'class'> &
		Pick<HTMLAnchorAttributes, 'href' | 'download' | 'target' | 'rel'> & {
			kind?: 'plain' | 'primary' | 'quiet' | 'grave';
			class?: string;
			onclick?: (e: MouseEvent & { currentTarget: HTMLElement }) => unknown;
			ref?: HTMLElement | null;
		};

	/** Something to do, or with href somewhere to go. */
	let { kind = 'plain', class: extra = '', type = 'button', ref = $bindable(null), ...rest }: Props = $props();
	const look = $derived(`btn ${kind === 'plain' ? '' : kind} ${extra}`);
</script>

<Button.Root bind:ref class={look} {...(rest.href ? rest : { type, ...rest }) as object} />
