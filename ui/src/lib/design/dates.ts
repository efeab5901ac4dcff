import { CalendarDate, parseDate, parseTime, Time } from '@internationalized/date';

/** Text of the contract (2026-11-27, 08:30) and what the parts of Bits UI count with. Empty and half typed: undefined. */

export function dateOf(iso: string | null | undefined): CalendarDate | undefined {
	try {
		return iso ? parseDate(iso.slice(0, 10)) : undefined;
	} catch {
		return undefined;
	}
}

export function timeOf(text: string | null | undefined): Time | undefined {
	try {
		return text ? parseTime(text) : undefined;
	} catch {
		return undefined;
	}
}

export const isoOf = (value: { toString(): string } | undefined): string => value?.toString().slice(0, 10) ?? '';

/** Hours and minutes; seconds are nobody's. */
export const clockOf = (value: { toString(): string } | undefined): string => value?.toString().slice(0, 5) ?? '';
