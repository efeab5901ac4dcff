import { createStore, entries, promisifyRequest, type UseStore } from 'idb-keyval';
import type { Place } from './queue';

/**
 * What lies on the device until the server has it, or until the student is done: in IndexedDB, and read at once, since
 * everything that is there was taken into memory when the page opened. Where a browser has no IndexedDB for us, in what it
 * has instead; where it has neither, in memory, and that is said.
 */
export interface Shelf extends Place {
	keys(prefix: string): string[];
	removeAll(prefix: string): void;
	/** Whether what is put here outlives the page. */
	readonly keeps: boolean;
	/** Once everything that was put here so far is on the disk, or cannot be. */
	settled(): Promise<void>;
}

class OnDisk implements Shelf {
	keeps = true;
	#writing: Promise<void> = Promise.resolve();

	constructor(
		private readonly store: UseStore,
		private readonly held: Map<string, string>
	) {}

	getItem(key: string) {
		return this.held.get(key) ?? null;
	}

	setItem(key: string, value: string) {
		this.held.set(key, value);
		this.#write((there) => there.put(value, key));
		if (!this.keeps) throw new DOMException('full', 'QuotaExceededError');
	}

	removeItem(key: string) {
		if (this.held.delete(key)) this.#write((there) => there.delete(key));
	}

	keys(prefix: string) {
		return [...this.held.keys()].filter((key) => key.startsWith(prefix));
	}

	removeAll(prefix: string) {
		const gone = this.keys(prefix);
		for (const key of gone) this.held.delete(key);
		if (gone.length) this.#write((there) => gone.forEach((key) => there.delete(key)));
	}

	settled() {
		return this.#writing;
	}

	/** Begun and committed at once: a page that is closed in the same moment takes back what waits for its own commit. */
	#write(work: (there: IDBObjectStore) => unknown) {
		const written = this.store('readwrite', (there) => {
			work(there);
			there.transaction.commit();
			return promisifyRequest(there.transaction);
		});
		const done = written.then(
			() => void (this.keeps = true),
			() => void (this.keeps = false)
		);
		this.#writing = this.#writing.then(() => done);
	}
}

/** The browser's older store, or memory where that is forbidden as well. */
class Instead implements Shelf {
	constructor(
		private readonly place: Place & { length: number; key(at: number): string | null },
		readonly keeps: boolean
	) {}

	getItem(key: string) {
		return this.place.getItem(key);
	}

	setItem(key: string, value: string) {
		this.place.setItem(key, value);
	}

	removeItem(key: string) {
		this.place.removeItem(key);
	}

	keys(prefix: string) {
		return Array.from({ length: this.place.length }, (_, at) => this.place.key(at) ?? '').filter((key) =>
			key.startsWith(prefix)
		);
	}

	removeAll(prefix: string) {
		for (const key of this.keys(prefix)) this.place.removeItem(key);
	}

	async settled() {}
}

class Memory {
	#held = new Map<string, string>();
	get length() {
		return this.#held.size;
	}
	key(at: number) {
		return [...this.#held.keys()][at] ?? null;
	}
	getItem(key: string) {
		return this.#held.get(key) ?? null;
	}
	setItem(key: string, value: string) {
		this.#held.set(key, value);
	}
	removeItem(key: string) {
		this.#held.delete(key);
	}
}

function instead(): Shelf {
	try {
		localStorage.setItem('bildung.try', '1');
		localStorage.removeItem('bildung.try');
		return new Instead(localStorage, true);
	} catch {
		return new Instead(new Memory(), false);
	}
}

async function open(): Promise<Shelf> {
	if (!('indexedDB' in globalThis)) return instead();
	try {
		const store = createStore('bildung', 'attempts');
		return new OnDisk(store, new Map(await entries<string, string>(store)));
	} catch {
		return instead();
	}
}

let opened: Promise<Shelf> | undefined;

/** The one shelf of this page. */
export function shelf(): Promise<Shelf> {
	return (opened ??= open());
}
