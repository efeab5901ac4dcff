<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import 'mathlive/fonts.css';
	import { Dialog } from 'bits-ui';
	import { onMount } from 'svelte';

	/** A formula written in a math field, taken over as MathML. */
	let { mathml, onput, onclose }: { mathml: string; onput: (next: string) => void; onclose: () => void } = $props();
	let host = $state<HTMLDivElement>();
	let field: import('mathlive').MathfieldElement | undefined;
	let problem = $state('');
	const READY = [
		['½', '\\frac{#?}{#?}', 'Fraction'],
		['x²', '#?^{#?}', 'Power'],
		['√', '\\sqrt{#?}', 'Root'],
		['×', '\\times', 'Times'],
		['÷', '\\div', 'Divided by'],
		['≤', '\\le', 'At most'],
		['≥', '\\ge', 'At least'],
		['°', '^{\\circ}', 'Degrees'],
		['π', '\\pi', 'Pi'],
		['( )', '\\left(#?\\right)', 'Brackets']
	] as const;

	onMount(() => {
		void (async () => {
			try {
				const [{ MathfieldElement, convertLatexToMathMl: _ }, { MathMLToLaTeX }] = await Promise.all([
					import('mathlive'),
					import('mathml-to-latex')
				]);
				MathfieldElement.fontsDirectory = null;
				MathfieldElement.soundsDirectory = null;
				field = new MathfieldElement();
				field.mathVirtualKeyboardPolicy = 'manual';
				field.className = 'formula-field';
				field.setAttribute('aria-label', 'Formula');
				// eslint-disable-next-line svelte/no-dom-manipulating -- the field is a web component that Svelte does not know
				host?.replaceChildren(field);
				field.menuItems = [];
				field.value = mathml ? MathMLToLaTeX.convert(mathml) : '';
				field.focus();
				field.addEventListener('keydown', (event) => {
					if (event.key === 'Enter') {
						event.preventDefault();
						take();
					}
				});
			} catch {
				problem = 'The formula field could not be opened; reload the page and try again.';
			}
		})();
	});

	function take() {
		const inner = field?.value.trim() ? field.getValue('math-ml') : '';
		onput(inner ? `<math>${inner}</math>` : '');
		onclose();
	}
</script>

<Dialog.Root open onOpenChange={(open) => !open && onclose()}>
	<Dialog.Portal>
		<Dialog.Overlay class="fixed inset-0 z-40 bg-ink/40" />
		<Dialog.Content
			class="sheet fixed top-[20vh] left-1/2 z-50 w-[min(560px,92vw)] -translate-x-1/2 p-5"
			onOpenAutoFocus={(e) => e.preventDefault()}
		>
			<Dialog.Title class="mb-2 text-[16px] font-semibold">Formula</Dialog.Title>
			<div bind:this={host} class="min-h-[52px] rounded border border-edge px-2 py-1 text-[24px]"></div>
			<div class="mt-2 flex flex-wrap gap-1">
				{#each READY as [face, latex, title] (title)}<Button
						{title}
						aria-label={title}
						onclick={() => (field?.insert(latex), field?.focus())}>{face}</Button
					>{/each}
			</div>
			{#if problem}<p class="mt-2 text-vermilion" role="alert">{problem}</p>{/if}
			<p class="small mt-2">Type 1/2 for a fraction and ^ for an exponent; use the arrow keys to move out.</p>
			<div class="mt-3 flex justify-end gap-2">
				<Button onclick={onclose}>Cancel</Button>
				<Button kind="primary" onclick={take}>Insert</Button>
			</div>
		</Dialog.Content>
	</Dialog.Portal>
</Dialog.Root>
