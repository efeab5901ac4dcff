import type { Schemas } from '$lib/api/client';
import { plain } from '$lib/words/plain';

/** Text in sentences, as a reader takes them; the browser knows where a sentence of a language ends. */
export function sentences(text: string): string[] {
	const segmenter = new Intl.Segmenter(document.documentElement.lang || 'en', { granularity: 'sentence' });
	return [...segmenter.segment(text)].map((s) => s.segment.trim()).filter(Boolean);
}

/** Everything of a question that is read, in order: what it is about, what is asked, what there is to choose from. */
export function spoken(question: Schemas['QuestionOut']): string[] {
	const named = (list: { id: string; html: string }[]) =>
		list.map((o) => (o.id.length === 1 ? `${o.id}: ` : '') + plain(o.html));
	const found = sentences(question.stimulus ? plain(question.stimulus.html) : '');
	found.push(...sentences(plain(question.shown.body)));
	for (const part of question.shown.parts) {
		found.push(...sentences(plain(part.prompt)));
		if ('options' in part) found.push(...named(part.options));
		if ('rows' in part) found.push(...part.rows.map((o) => plain(o.html)), ...part.columns.map((o) => plain(o.html)));
		if (part.type === 'hot_text') found.push(...sentences(plain(part.text)));
	}
	return found;
}

/** The device's own voice, sentence by sentence; nothing leaves the device. */
export class Reader {
	lines = $state<string[]>([]);
	at = $state(-1);
	playing = $state(false);

	get line(): string {
		return this.lines[this.at] ?? '';
	}

	open(question: Schemas['QuestionOut']) {
		this.lines = spoken(question);
		this.read(0);
	}

	read(at: number) {
		speechSynthesis.cancel();
		this.at = Math.max(0, Math.min(at, this.lines.length - 1));
		const words = new SpeechSynthesisUtterance(this.line);
		words.onend = () => {
			if (!this.playing) return;
			if (this.at < this.lines.length - 1) this.read(this.at + 1);
			else this.playing = false;
		};
		words.onerror = () => (this.playing = false);
		this.playing = true;
		speechSynthesis.speak(words);
	}

	pause() {
		this.playing = false;
		speechSynthesis.cancel();
	}

	close() {
		if (!this.lines.length) return; // a browser may have no voice at all
		this.pause();
		[this.lines, this.at] = [[], -1];
	}
}
