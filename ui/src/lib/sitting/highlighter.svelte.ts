import type { Attachment } from 'svelte/attachments';

type Span = [number, number];

/**
 * Marks of a highlighter on a question's text, kept by the places of the letters so that they come back with the question.
 * Drawn by the browser's own highlights: the text itself is never changed.
 */
export class Highlighter {
	on = $state(false);
	#spans: Record<string, Span[]> = {};
	#can = typeof CSS !== 'undefined' && 'highlights' in CSS;

	/** For the element that holds the text of one question. */
	over(question: string): Attachment<HTMLElement> {
		return (host) => {
			if (!this.#can) return;
			this.#draw(host, question);
			const lifted = () => this.on && this.#take(host, question);
			host.addEventListener('pointerup', lifted);
			return () => {
				host.removeEventListener('pointerup', lifted);
				CSS.highlights.delete('marked');
			};
		};
	}

	clear(question: string) {
		delete this.#spans[question];
		CSS.highlights.delete('marked');
	}

	#take(host: HTMLElement, question: string) {
		const chosen = getSelection();
		if (!chosen || chosen.isCollapsed || !chosen.rangeCount) return;
		const range = chosen.getRangeAt(0);
		if (!host.contains(range.commonAncestorContainer)) return;
		const before = document.createRange();
		before.selectNodeContents(host);
		before.setEnd(range.startContainer, range.startOffset);
		const start = before.toString().length;
		(this.#spans[question] ??= []).push([start, start + range.toString().length]);
		chosen.removeAllRanges();
		this.#draw(host, question);
	}

	#draw(host: HTMLElement, question: string) {
		const ranges = (this.#spans[question] ?? []).map((span) => this.#range(host, span)).filter((r) => r !== null);
		CSS.highlights.set('marked', new Highlight(...ranges));
	}

	#range(host: HTMLElement, [start, end]: Span): Range | null {
		const walker = document.createTreeWalker(host, NodeFilter.SHOW_TEXT);
		const range = document.createRange();
		let at = 0;
		let began = false;
		for (let node = walker.nextNode(); node; node = walker.nextNode()) {
			const length = node.textContent?.length ?? 0;
			if (!began && at + length > start) {
				range.setStart(node, start - at);
				began = true;
			}
			if (began && at + length >= end) {
				range.setEnd(node, end - at);
				return range;
			}
			at += length;
		}
		return null;
	}
}
