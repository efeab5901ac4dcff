<script lang="ts">
	import { Button, type ButtonRootProps } from 'bits-ui';

	/** Something to do, or with href somewhere to go. */
	let {
		kind = 'plain',
		class: extra = '',
		type = 'button',
		...rest
	}: ButtonRootProps & { kind?: 'plain' | 'primary' | 'quiet' | 'grave' } = $props();
	const look = $derived(`btn ${kind === 'plain' ? '' : kind} ${extra}`);
</script>

<Button.Root class={look} {...(rest.href ? rest : { type, ...rest }) as object} />
