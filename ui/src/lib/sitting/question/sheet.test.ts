import { flushSync, mount, unmount } from 'svelte';
import { afterEach, describe, expect, it } from 'vitest';
import type { Shown } from './answer';
import { leadingPassage } from './passage';
import Sheet from './Sheet.svelte';

const gap = (id: string) => `<span data-gap="${id}"></span>`;
const entry = (id: string) => ({
	type: 'entry' as const,
	id,
	prompt: '',
	numeric: false,
	unit: '',
	width: 8,
	inline: true
});

let open: object | null = null;
afterEach(() => {
	if (open) void unmount(open);
	open = null;
	document.body.innerHTML = '';
});

/** Mounted as a student meets it; returns the answers that come in. */
function sheet(body: string, ids: string[]): string[] {
	const said: string[] = [];
	const shown: Shown = { body, parts: ids.map(entry), tools: [] };
	open = mount(Sheet, {
		target: document.body,
		props: { shown, stimulus: null, answer: '', name: 'q', onanswer: (text: string) => said.push(text) }
	});
	flushSync();
	return said;
}

describe('fields in the text', () => {
	const BODIES: Record<string, string> = {
		'in a set-apart paragraph': `<p>Complete the sentence.</p><blockquote><p>Water boils at ${gap('g1')} and freezes at ${gap('g2')}.</p></blockquote>`,
		'in a set-apart paragraph with text behind it': `<blockquote><p>The ${gap('g1')} sat.</p></blockquote><p>Then the ${gap('g2')} ran.</p>`,
		'in a set-apart paragraph inside another': `<blockquote><p>One ${gap('g1')}</p><blockquote><p>two ${gap('g2')}</p></blockquote></blockquote>`,
		'in a table and a list': `<table><tbody><tr><td>${gap('g1')}</td></tr></tbody></table><ul><li>${gap('g2')}</li></ul>`,
		'behind a passage': `<blockquote><p>A passage.</p></blockquote><p>${gap('g1')} and ${gap('g2')}</p>`
	};
	for (const [name, body] of Object.entries(BODIES))
		it(`are there ${name}, each once, and take an answer`, () => {
			const said = sheet(body, ['g1', 'g2']);
			const fields = [...document.querySelectorAll<HTMLInputElement>('input.gap')];
			expect(fields.map((f) => f.dataset.part)).toEqual(['g1', 'g2']);
			fields[1]!.value = 'word';
			fields[1]!.dispatchEvent(new Event('input', { bubbles: true }));
			expect(said).toEqual(['{"g2":"word"}']);
		});
});

describe('a passage at the head of the text', () => {
	it('is set beside the question', () => {
		expect(leadingPassage('<blockquote><p>Long ago</p></blockquote><p>Who?</p>')).toEqual({
			passage: '<blockquote><p>Long ago</p></blockquote>',
			question: '<p>Who?</p>'
		});
	});
	it('is left where it holds a gap, ends the text or stands inside something else', () => {
		expect(leadingPassage(`<blockquote><p>${gap('g1')}</p></blockquote><p>Go on.</p>`)).toBeNull();
		expect(leadingPassage('<p>Read:</p><blockquote><p>Long ago</p></blockquote>')).toBeNull();
		expect(leadingPassage('<div><blockquote><p>Long ago</p></blockquote></div><p>Who?</p>')).toBeNull();
	});
	it('is cut behind the whole of it, not at the first end inside it', () => {
		const nested = '<blockquote><p>a</p><blockquote><p>b</p></blockquote><p>c</p></blockquote>';
		expect(leadingPassage(`${nested}<p>Who?</p>`)?.passage).toBe(nested);
	});
});
