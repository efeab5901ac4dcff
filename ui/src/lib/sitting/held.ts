import type { Schemas } from '$lib/api/client';
import type { Message } from './queue';
import type { Shelf } from './shelf';

/** How an attempt was ended on this device while the server was out of reach. at: by the server's clock as it was known. */
export type SubmittedHere = { at: string; timeOver: boolean };
/** With what the answers of an attempt are delivered when its student has gone. */
export type Errand = { delivery: string; takeover: number; reached: number };

const PRESENT = 'bildung.present';
const LEAVING = 'bildung.leaving';
const ALL = 'bildung.sitting.';

/** What one attempt has on the device. Of an attempt that was left only what the server lacks stays. */
export class Held {
	readonly key: string;

	constructor(
		readonly shelf: Shelf,
		readonly sitting: string
	) {
		this.key = `${ALL}${sitting}`;
	}

	/** The attempt whose student works on this device now. */
	static present(shelf: Shelf): string | null {
		return shelf.getItem(PRESENT);
	}

	/** Attempts that have anything here. */
	static all(shelf: Shelf): Held[] {
		const ids = shelf.keys(ALL).map((key) => key.slice(ALL.length).split('.')[0] ?? '');
		return [...new Set(ids)].map((id) => new Held(shelf, id));
	}

	/** The student left without a network: the server is still to be told. */
	static leaving(shelf: Shelf): string | null {
		return shelf.getItem(LEAVING);
	}

	static setLeaving(shelf: Shelf, csrf: string | null): void {
		if (csrf === null) shelf.removeItem(LEAVING);
		else shelf.setItem(LEAVING, csrf);
	}

	arrive(): void {
		this.put('', undefined, PRESENT, this.sitting);
	}

	read<T>(name: string): T | null {
		try {
			return JSON.parse(this.shelf.getItem(`${this.key}.${name}`) ?? 'null');
		} catch {
			return null;
		}
	}

	/** A full or forbidden store is no reason to lose what is in memory. */
	put(name: string, value: unknown, key = `${this.key}.${name}`, text = JSON.stringify(value)): void {
		try {
			this.shelf.setItem(key, text);
		} catch {
			/* the queue says that nothing is kept */
		}
	}

	drop(name: string): void {
		this.shelf.removeItem(`${this.key}.${name}`);
	}

	get unsent(): Message[] {
		try {
			const found: unknown = JSON.parse(this.shelf.getItem(this.key) ?? '[]');
			return Array.isArray(found) ? found : [];
		} catch {
			return [];
		}
	}

	get submitted(): SubmittedHere | null {
		return this.read('submitted');
	}

	get errand(): Errand | null {
		return this.read('errand');
	}

	get paper(): Schemas['PaperOut'] | null {
		return this.read('paper');
	}

	/** The server no longer takes anything from here in their name: what is unsent is brought as if they had left. */
	part(): void {
		if (Held.present(this.shelf) === this.sitting) this.shelf.removeItem(PRESENT);
	}

	/** The student goes: what the server has is wiped, and so is everything that shows the test. */
	leave(): void {
		this.part();
		if (!this.unsent.length && !this.submitted) this.wipe();
		else
			for (const name of ['paper', 'place', 'later', 'notes', 'given', 'spent', 'refused', 'section']) this.drop(name);
	}

	wipe(): void {
		this.shelf.removeAll(`${this.key}.`);
		this.shelf.removeItem(this.key);
	}
}
