import { formats } from './formats.svelte';

/** How figures and times are written, the same as core/items/shown.py (tested). Nothing here computes one. */

export function percent(value: number | null): string {
	return value === null ? '–' : `${Math.round(value * 100)}%`;
}

/** A difference of two shares: percentage points with their sign, never per cent. */
export function points(difference: number | null): string {
	if (difference === null) return '–';
	const whole = Math.round(Math.abs(difference) * 100);
	return `${whole === 0 ? '' : difference > 0 ? '+' : '−'}${whole} pp`;
}

/** A window's name with its year, which it may have already. */
export function dated(name: string, start: string): string {
	return /\b(?:19|20)\d\d\b/.test(name) ? name : `${name} ${start.slice(0, 4)}`;
}

/** A real minus, and none before nothing but zeros. */
export function decimal(value: number | null, places = 1): string {
	if (value === null) return '–';
	const text = value.toFixed(places);
	return (Number(text) === 0 ? text.replace('-', '') : text).replace('-', '−');
}

/** A correlation or coefficient: no leading zero. */
export function short(value: number | null, places = 2): string {
	return decimal(value, places).replace(/^(−?)0\./, '$1.');
}

/** Tint of a share: the same height everywhere, dark is low. */
export function relief(share: number | null): 1 | 2 | 3 | 4 | 5 {
	if (share === null) return 3;
	return share < 0.25 ? 1 : share < 0.5 ? 2 : share < 0.7 ? 3 : share < 0.85 ? 4 : 5;
}

export const reliefColor = (share: number | null) => `var(--color-relief${relief(share)})`;

const HUES = ['A', 'B', 'C', 'D', 'E'];

/** The hue of an answer by its place among the options. */
export const hue = (place: number) => `var(--color-opt${HUES[place % HUES.length]})`;

export function flagWords(flag: string): string {
	return flag.replaceAll('_', ' ');
}

/** A count, its thousands set apart. */
export const whole = (n: number): string => n.toLocaleString(formats.locale);

const clock = () => ({
	hour: formats.hours === 12 ? ('numeric' as const) : ('2-digit' as const),
	minute: '2-digit' as const,
	hour12: formats.hours === 12
});

/** One kind of blank between a time and AM, and months of three letters: browsers differ, prints do not. */
const plain = (text: string) => text.replaceAll('\u202f', ' ').replace(/\bSept\b/, 'Sep');

/** A moment with its weekday, in a zone. */
export function dateTime(iso: string, zone: string): string {
	const when = { timeZone: zone, weekday: 'short', day: 'numeric', month: 'short', ...clock() } as const;
	return plain(new Date(iso).toLocaleString(formats.locale, when));
}

/** A moment's time of day, in a zone. */
export function time(iso: string, zone: string): string {
	return plain(new Date(iso).toLocaleTimeString(formats.locale, { timeZone: zone, ...clock() }));
}

/** The schools' zone, set once it is known: a moment's day is the day it is there, wherever the browser is. */
let zoneHere = 'UTC';
export function setZone(zone: string): void {
	zoneHere = zone;
}

/** A day; of a moment, its day at the school. */
export function day(iso: string): string {
	const moment = iso.length > 10;
	const when = { timeZone: moment ? zoneHere : 'UTC', day: 'numeric', month: 'short', year: 'numeric' } as const;
	return plain(new Date(moment ? iso : `${iso}T12:00:00Z`).toLocaleDateString(formats.locale, when));
}

/** A day within a year that is known. */
export function shortDay(iso: string): string {
	const when = { timeZone: 'UTC', day: 'numeric', month: 'short' } as const;
	return plain(new Date(`${iso.slice(0, 10)}T12:00:00Z`).toLocaleDateString(formats.locale, when));
}

/** A moment as day and time at the school. */
export function moment(iso: string): string {
	const when = { timeZone: zoneHere, day: 'numeric', month: 'short', ...clock() } as const;
	return plain(new Date(iso).toLocaleString(formats.locale, when));
}

/** A moment's day and time in a zone, as fields for dates and times hold them: 2026-11-30 and 08:30. */
export function fieldsOf(iso: string, zone: string): { day: string; time: string } {
	const text = new Date(iso).toLocaleString('sv-SE', { timeZone: zone });
	return { day: text.slice(0, 10), time: text.slice(11, 16) };
}

export const STATE_WORDS: Record<string, string> = {
	not_started: 'not started',
	answering: 'in progress',
	resting: 'to be continued',
	on_paper: 'on paper',
	handed_in: 'submitted',
	absent: 'absent',
	exempt: 'exempt',
	void: 'invalidated'
};

/** What was decided about an irregularity. */
export const OUTCOMES: Record<string, string> = {
	counts: 'the attempt counts',
	void: 'invalidated',
	retake: 'invalidated, to be taken again',
	exempt: 'exempt'
};

/** What became of an item of a student's test. */
export const GAVE_WORDS = {
	right: 'correct',
	partly: 'part of the points',
	wrong: 'incorrect',
	omitted: 'omitted',
	not_reached: 'not reached',
	not_presented: 'not on this test',
	awaiting: 'waits for a score'
} as const;
