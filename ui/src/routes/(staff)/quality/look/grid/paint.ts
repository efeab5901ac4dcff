import type { Answers } from './answers.svelte';

const HUES = ['#14505c', '#8a5a1c', '#7b3f63', '#4a6a2f', '#5b5b8c'];
const INK = '#16242a';
const SECOND = '#51636a';
const RELIEF = { 2: '#456a80', 3: '#86a5a6', 4: '#cfcba8' };

/** One answer: right is empty, wrong shows the chosen option on its hue, omitted hollow, not reached hatched, part of the points as a fill, parts as slots; a corner where it is unexpected. */
export function paintAnswer(
	on: CanvasRenderingContext2D,
	answers: Answers,
	student: number,
	item: number,
	w: number,
	h: number
): void {
	const code = answers.code(student, item);
	const label = code >= 4 ? answers.data.items[item]?.labels[code - 4] : undefined;
	if (label?.parts && label.parts.length > 1) slots(on, label.parts, w, h);
	else if (label) {
		if (label.share > 0 && label.share < 1) {
			on.fillStyle = RELIEF[3];
			on.fillRect(0, 0, w, h * (1 - label.share));
		} else if (label.share <= 0) {
			const place = answers.hues[item]?.[code - 4] ?? -1;
			on.fillStyle = place >= 0 ? (HUES[place % HUES.length] ?? INK) : RELIEF[4];
			on.fillRect(0, 0, w, h);
			if (place >= 5) {
				on.fillStyle = '#fff';
				on.fillRect(0, h / 2 + 7, w, 2);
			}
			on.fillStyle = place >= 0 ? '#fff' : INK;
			on.fillText(label.text.length <= 3 ? label.text : '…', w / 2, h / 2 + 0.5);
		}
	} else if (code === 0) {
		on.strokeStyle = SECOND;
		on.lineWidth = 1;
		on.strokeRect(w / 2 - 5.5, h / 2 - 5.5, 11, 11);
	} else if (code === 1) hatch(on, w, h);
	else if (code === 3) {
		on.fillStyle = SECOND;
		on.fillText('?', w / 2, h / 2);
	} else {
		on.fillStyle = '#f3f5f4';
		on.fillRect(0, 0, w, h);
	}
	if (answers.unexpected[student]?.has(item)) {
		on.fillStyle = INK;
		on.beginPath();
		on.moveTo(w - 9, 0);
		on.lineTo(w, 0);
		on.lineTo(w, 9);
		on.fill();
	}
}

function slots(on: CanvasRenderingContext2D, parts: number[], w: number, h: number): void {
	const each = (w - 6) / parts.length;
	parts.forEach((share, at) => {
		const x = 3 + at * each;
		on.fillStyle = share >= 1 ? '#fff' : share > 0 ? RELIEF[3] : RELIEF[2];
		on.fillRect(x, 5, each - 1, h - 10);
		if (share > 0 && share < 1) {
			on.fillStyle = '#fff';
			on.fillRect(x, 5 + (h - 10) * (1 - share), each - 1, (h - 10) * share);
		}
		on.strokeStyle = RELIEF[2];
		on.lineWidth = 1;
		on.strokeRect(x + 0.5, 5.5, each - 2, h - 11);
	});
}

function hatch(on: CanvasRenderingContext2D, w: number, h: number): void {
	on.strokeStyle = '#b9c3bf';
	on.lineWidth = 1.3;
	on.beginPath();
	for (let x = -h; x < w; x += 5) {
		const [from, to] = [Math.max(0, -x), Math.min(h, w - x)];
		on.moveTo(x + from, h - from);
		on.lineTo(x + to, h - to);
	}
	on.stroke();
}
