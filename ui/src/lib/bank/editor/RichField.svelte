<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { Editor } from '@tiptap/core';
	import Image from '@tiptap/extension-image';
	import Subscript from '@tiptap/extension-subscript';
	import Superscript from '@tiptap/extension-superscript';
	import { TableKit } from '@tiptap/extension-table';
	import StarterKit from '@tiptap/starter-kit';
	import { onMount } from 'svelte';
	import { said } from '$lib/api/client';
	import FormulaDialog from './FormulaDialog.svelte';
	import { GapNode, MathNode, PickMark } from './nodes';
	import { keepMedia } from './pictures';

	/**
	 * A field for formatted text. small: one line for a choice, its tools shown while it is written in.
	 * ongap, onpick: make a part or a piece to pick and give its name.
	 */
	let {
		html,
		label,
		small = false,
		ongap,
		onpick,
		onchange
	}: {
		html: string;
		label: string;
		small?: boolean;
		ongap?: (kind: 'entry' | 'menu') => string;
		onpick?: () => string;
		onchange: (html: string) => void;
	} = $props();

	let host: HTMLDivElement;
	let editor: Editor | undefined;
	let told = $state(0); // moves with every change, so that the tools show what is on
	let inside = $state(false);
	let formula = $state<{ mathml: string; put: (next: string) => void } | null>(null);
	let problem = $state('');
	let picture = $state<File | null>(null); // chosen, and waiting for its words
	let alt = $state('');
	let sent = '';

	/** A lone paragraph in a choice is just its text. */
	function out(): string {
		let text = editor?.getHTML() ?? '';
		if (text === '<p></p>') text = '';
		if (small && /^<p>((?!<p>)[\s\S])*<\/p>$/.test(text)) text = text.slice(3, -4);
		return text;
	}

	onMount(() => {
		editor = new Editor({
			element: host,
			content: html,
			extensions: [
				StarterKit.configure({ heading: false, link: false, codeBlock: false, strike: false, trailingNode: false }),
				Subscript,
				Superscript,
				Image.configure({ inline: true }),
				...(small ? [] : [TableKit.configure({ table: { resizable: false } })]),
				MathNode.configure({ onopen: (mathml, put) => (formula = { mathml, put }) }),
				GapNode,
				PickMark
			],
			editorProps: {
				attributes: {
					class: `markup rich ${small ? '' : 'tall'}`,
					role: 'textbox',
					'aria-label': label,
					'aria-multiline': String(!small)
				}
			},
			onUpdate: () => {
				told++;
				sent = out();
				onchange(sent);
			},
			onSelectionUpdate: () => told++,
			onFocus: () => (inside = true)
		});
		sent = html;
		return () => editor?.destroy();
	});

	// what changed outside (another version, a new part) is taken in; what is being typed is not
	$effect(() => {
		if (editor && html !== sent) {
			sent = html;
			editor.commands.setContent(html, { emitUpdate: false });
		}
	});

	const on = (name: string) => told >= 0 && editor?.isActive(name);
	const run = (act: (e: Editor) => void) => editor && (act(editor), (told += 1));

	function chosen(event: Event) {
		const field = event.currentTarget as HTMLInputElement;
		picture = field.files?.[0] ?? null;
		field.value = '';
		alt = '';
	}

	async function put() {
		if (!picture || !alt.trim()) return;
		try {
			const kept = await keepMedia(picture);
			problem = '';
			run((e) => e.chain().focus().setImage({ src: kept.address, alt: alt.trim() }).run());
			picture = null;
		} catch (error) {
			problem = said(error);
		}
	}

	function gap(kind: 'entry' | 'menu') {
		const id = ongap?.(kind);
		if (id) run((e) => e.chain().focus().insertContent({ type: 'gap', attrs: { id } }).run());
	}

	function pick() {
		if (!editor || !onpick) return;
		if (editor.isActive('pick')) editor.chain().focus().unsetMark('pick').run();
		else if (!editor.state.selection.empty) editor.chain().focus().setMark('pick', { id: onpick() }).run();
		else problem = 'Select the words first.';
	}
</script>

<!-- eslint-disable svelte/no-at-html-tags -- the faces are written in this file -->
{#snippet tool(title: string, face: string, act: () => void, pressed = false)}
	<button
		type="button"
		class="min-h-[26px] min-w-[26px] cursor-pointer rounded px-1.5 text-[13px] hover:bg-wash {pressed
			? 'bg-wash font-bold'
			: ''}"
		{title}
		aria-label={title}
		aria-pressed={pressed}
		onmousedown={(e) => e.preventDefault()}
		onclick={act}>{@html face}</button
	>
{/snippet}

<div
	class="rounded border border-edge bg-sheet focus-within:outline-2 focus-within:outline-offset-1 focus-within:outline-petrol"
	onfocusout={(e) => {
		if (!(e.currentTarget as HTMLElement).contains(e.relatedTarget as Node | null) && !formula) inside = false;
	}}
>
	{#if !small || inside}
		<div
			class="flex flex-wrap gap-0.5 border-b border-hair2 px-1 py-0.5"
			role="toolbar"
			aria-label="{label}: formatting"
		>
			{@render tool('Bold', '<b>b</b>', () => run((e) => e.chain().focus().toggleBold().run()), on('bold'))}
			{@render tool('Italic', '<i>i</i>', () => run((e) => e.chain().focus().toggleItalic().run()), on('italic'))}
			{@render tool(
				'Underlined',
				'<u>u</u>',
				() => run((e) => e.chain().focus().toggleUnderline().run()),
				on('underline')
			)}
			{@render tool(
				'Below the line',
				'x<sub>2</sub>',
				() => run((e) => e.chain().focus().toggleSubscript().run()),
				on('subscript')
			)}
			{@render tool(
				'Above the line',
				'x<sup>2</sup>',
				() => run((e) => e.chain().focus().toggleSuperscript().run()),
				on('superscript')
			)}
			{#if !small}
				{@render tool('List', '• list', () => run((e) => e.chain().focus().toggleBulletList().run()), on('bulletList'))}
				{@render tool(
					'Set apart',
					'❙ text',
					() => run((e) => e.chain().focus().toggleBlockquote().run()),
					on('blockquote')
				)}
				{@render tool('Table', 'table', () =>
					run((e) => e.chain().focus().insertTable({ rows: 3, cols: 3, withHeaderRow: true }).run())
				)}
				{#if on('table')}
					{@render tool('Add row', '+ row', () => run((e) => e.chain().focus().addRowAfter().run()))}
					{@render tool('Another column', '+ column', () => run((e) => e.chain().focus().addColumnAfter().run()))}
					{@render tool('This row away', '− row', () => run((e) => e.chain().focus().deleteRow().run()))}
					{@render tool('This column away', '− column', () => run((e) => e.chain().focus().deleteColumn().run()))}
				{/if}
			{/if}
			{@render tool(
				'Formula',
				'√x',
				() =>
					(formula = {
						mathml: '',
						put: (next) =>
							next &&
							run((e) =>
								e
									.chain()
									.focus()
									.insertContent({ type: 'formula', attrs: { mathml: next } })
									.run()
							)
					})
			)}
			<label
				class="flex min-h-[26px] cursor-pointer items-center rounded px-1.5 text-[13px] hover:bg-wash has-focus-visible:outline-2"
				>picture<input
					class="sr-only"
					type="file"
					accept="image/png,image/jpeg,image/webp,image/gif"
					onchange={chosen}
				/></label
			>
			{#if ongap}
				{@render tool('A gap to write in', '▭ gap', () => gap('entry'))}
				{@render tool('A choice in the text', '▾ choice', () => gap('menu'))}
			{/if}
			{#if onpick}{@render tool('Can be picked', 'selectable', pick, on('pick'))}{/if}
		</div>
	{/if}
	<div bind:this={host}></div>
</div>
{#if picture}
	<div class="mt-1 flex items-end gap-2">
		<label class="field flex-1"
			>Alt text for {picture.name}
			<input
				class="input"
				maxlength="400"
				bind:value={alt}
				onkeydown={(e) => e.key === 'Enter' && (e.preventDefault(), void put())}
			/>
		</label>
		<Button disabled={!alt.trim()} onclick={put}>Insert</Button>
		<Button kind="quiet" onclick={() => (picture = null)}>Cancel</Button>
	</div>
{/if}
{#if problem}<p class="mt-1 text-[13px] text-vermilion" role="alert">{problem}</p>{/if}
{#if formula}<FormulaDialog mathml={formula.mathml} onput={formula.put} onclose={() => (formula = null)} />{/if}
