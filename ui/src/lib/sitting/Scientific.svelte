<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { calculate, shownNumber } from './calculation';

	/** A calculator that shows the whole calculation before it is worked out. */
	let text = $state('');
	let result = $state('');
	let last = 0;
	const KEYS = [
		['sin', 'cos', 'tan', 'log', 'ln'],
		['√', '^', 'π', 'e', '!'],
		['7', '8', '9', '(', ')'],
		['4', '5', '6', '×', '÷'],
		['1', '2', '3', '+', '−'],
		['0', '.', '%', 'Ans', '=']
	];
	const NAMES: Record<string, string> = {
		'√': 'square root',
		'^': 'to the power of',
		π: 'pi',
		'!': 'factorial',
		'(': 'open bracket',
		')': 'close bracket',
		'×': 'times',
		'÷': 'divided by',
		'−': 'minus',
		'+': 'plus',
		'=': 'equals',
		'%': 'percent',
		'.': 'point',
		Ans: 'last result'
	};
	const OPENS = ['sin', 'cos', 'tan', 'log', 'ln', '√'];

	function press(key: string) {
		if (key === '=') return work();
		if (result && /^[+−×÷^%!]$/.test(key)) text = shownNumber(last);
		else if (result) text = '';
		result = '';
		if (key === 'Ans') text += shownNumber(last);
		else if (text.length < 60) text += OPENS.includes(key) ? `${key}(` : key;
	}

	function work() {
		if (!text) return;
		try {
			last = calculate(text);
			result = shownNumber(last);
		} catch (error) {
			result = error instanceof Error ? error.message : 'not possible';
		}
	}

	function back() {
		text = result ? '' : text.replace(/(sin|cos|tan|log|ln|√)\($|.$/, '');
		result = '';
	}
</script>

<div
	class="apart w-[296px] max-w-full rounded-md border border-hair bg-paper p-2"
	role="group"
	aria-label="Scientific calculator"
>
	<div class="mb-2 rounded border border-hair bg-sheet px-2 py-1 text-right tabular-nums">
		<div class="min-h-[24px] overflow-hidden text-[16px] text-ink2">{text || ' '}</div>
		<output class="block min-h-[32px] overflow-hidden text-[22px] leading-[32px]" aria-live="polite"
			>{result || '0'}</output
		>
	</div>
	<div class="grid grid-cols-5 gap-1">
		{#each KEYS.flat() as key (key)}<Button
				kind={key === '=' ? 'primary' : 'plain'}
				class="min-h-[44px] justify-center px-0 text-[16px]"
				aria-label={NAMES[key] ?? key}
				onclick={() => press(key)}>{key}</Button
			>{/each}
		<Button kind="quiet" class="col-span-2 min-h-[40px] justify-center" onclick={back}>Delete</Button>
		<Button kind="quiet" class="col-span-3 min-h-[40px] justify-center" onclick={() => ([text, result] = ['', ''])}
			>Clear</Button
		>
	</div>
	<p class="mt-1 text-[13px] text-ink2">Angles in degrees.</p>
</div>
