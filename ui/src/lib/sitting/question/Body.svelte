<script lang="ts">
	import type { AnyPart, Shown } from './answer';

	/** The question's text, with a field where each gap stands. The server has made the text safe. */
	let {
		shown,
		given,
		name,
		onput
	}: { shown: Shown; given: Record<string, string>; name: string; onput: (id: string, text: string) => void } =
		$props();
	let host: HTMLDivElement;

	function field(part: AnyPart, at: number): HTMLElement {
		if (part.type === 'menu') {
			const select = document.createElement('select');
			select.className = 'gap';
			select.append(new Option('…', ''), ...part.options.map((o) => new Option(words(o.html), o.id)));
			select.onchange = () => onput(part.id, select.value);
			select.setAttribute('aria-label', `Gap ${at}`);
			return select;
		}
		const input = document.createElement('input');
		input.className = 'gap';
		input.type = 'text';
		input.autocomplete = 'off';
		input.spellcheck = false;
		input.maxLength = 200;
		if (part.type === 'entry') {
			input.style.width = `${part.width + 2}ch`;
			if (part.numeric) input.inputMode = 'decimal';
		}
		input.oninput = () => onput(part.id, input.value);
		input.setAttribute('aria-label', `Gap ${at}`);
		return input;
	}

	/** What a menu can show of a text: its words. */
	function words(html: string): string {
		const holder = document.createElement('template');
		holder.innerHTML = html;
		return holder.content.textContent?.trim() ?? '';
	}

	$effect(() => {
		const parts = new Map(shown.parts.map((p) => [p.id, p]));
		// eslint-disable-next-line svelte/no-dom-manipulating -- the text is the item’s, made safe by the server; its gaps are filled below
		host.innerHTML = shown.body;
		host.querySelectorAll<HTMLElement>('span[data-gap]').forEach((spot, at) => {
			const part = parts.get(spot.dataset.gap ?? '');
			if (!part) return;
			const made = field(part, at + 1) as HTMLInputElement;
			made.id = `${name}-gap-${part.id}`;
			made.dataset.part = part.id;
			spot.replaceChildren(made);
			if (part.type === 'entry' && part.unit) spot.append(` ${part.unit}`);
		});
	});

	$effect(() => {
		for (const made of host.querySelectorAll<HTMLInputElement>('.gap')) {
			const value = given[made.dataset.part ?? ''] ?? '';
			if (made.value !== value) made.value = value;
		}
	});
</script>

<div class="markup" bind:this={host}></div>
