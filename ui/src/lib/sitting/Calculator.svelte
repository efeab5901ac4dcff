<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	/** A calculator with four operations, worked out step by step as the keys are pressed. */
	let shown = $state('0');
	let held: number | null = null;
	let sign = '';
	let fresh = true;
	const KEYS = ['7', '8', '9', '÷', '4', '5', '6', '×', '1', '2', '3', '−', '0', '.', '=', '+'];
	const NAMES: Record<string, string> = {
		'÷': 'divided by',
		'×': 'times',
		'−': 'minus',
		'+': 'plus',
		'=': 'equals',
		'.': 'point'
	};

	function work(a: number, b: number): number {
		const found = sign === '+' ? a + b : sign === '−' ? a - b : sign === '×' ? a * b : sign === '÷' ? a / b : b;
		return Number(found.toPrecision(12)); // 0.1 + 0.2 reads 0.3
	}

	function press(key: string) {
		if (/^[0-9]$/.test(key)) shown = fresh || shown === '0' ? key : shown.length < 12 ? shown + key : shown;
		else if (key === '.') shown = fresh ? '0.' : shown.includes('.') ? shown : shown + '.';
		else {
			const now = Number(shown);
			if (held !== null && sign && !fresh)
				shown = Number.isFinite(work(held, now)) ? String(work(held, now)) : 'not possible';
			held = key === '=' ? null : Number(shown);
			sign = key === '=' ? '' : key;
			fresh = true;
			return;
		}
		fresh = false;
	}
	function clear() {
		[shown, held, sign, fresh] = ['0', null, '', true];
	}
</script>

<div class="apart w-[220px] rounded-md border border-hair bg-paper p-2" role="group" aria-label="Calculator">
	<output
		class="mb-2 block min-h-[40px] overflow-hidden rounded border border-hair bg-sheet px-2 text-right text-[22px] leading-[40px] tabular-nums"
		aria-live="polite">{shown.replace('-', '−')}</output
	>
	<div class="grid grid-cols-4 gap-1">
		{#each KEYS as key (key)}<Button
				kind={key === '=' ? 'primary' : 'plain'}
				class="min-h-[44px] justify-center px-0 text-[18px]"
				aria-label={NAMES[key] ?? key}
				onclick={() => press(key)}>{key}</Button
			>{/each}
		<Button kind="quiet" class="col-span-4 min-h-[40px] justify-center" onclick={clear}>Clear</Button>
	</div>
</div>
