import { goto } from '$app/navigation';
import { page } from '$app/state';
import { fields } from '$lib/state/keys.svelte';
import { staff } from '$lib/state/staff.svelte';

const WAIT = 1500; // milliseconds for the letter after `g`
/** Where letters are written, or choose something by themselves. */
const OWN_LETTERS =
	'input, textarea, [contenteditable=true], math-field, [role=menu], [role=listbox], [role=combobox], [role=spinbutton], [role=dialog], [role=alertdialog], [data-select-trigger]';

/** What stands around every page of staff: the rail, the palette, and the keys that work anywhere. */
export class Frame {
	/** The list of keys is shown. */
	keysShown = $state(false);
	/** The palette is open. */
	finding = $state(false);
	/** `g` was pressed: the rail shows its letters. */
	going = $state(false);
	#gone: ReturnType<typeof setTimeout> | undefined;

	/** A path with the chosen window, where one was chosen. */
	keep = (path: string): string => {
		const id = page.url.searchParams.get('window');
		return id ? `${path}?window=${id}` : path;
	};

	chooseWindow = (id: string) => {
		const url = new URL(page.url);
		url.searchParams.set('window', id);
		if (url.pathname.startsWith('/quality/') || /^\/sessions\/\d/.test(url.pathname)) {
			url.pathname = url.pathname.startsWith('/quality/') ? '/quality' : '/sessions';
			url.search = `?window=${id}`;
		}
		void goto(url, { keepFocus: true, noScroll: true });
	};

	#go(on: boolean) {
		clearTimeout(this.#gone);
		this.going = on;
		if (on) this.#gone = setTimeout(() => (this.going = false), WAIT);
	}

	/** Whether letters are somebody else's here. */
	#taken(event: KeyboardEvent, target: HTMLElement): boolean {
		return event.ctrlKey || event.metaKey || event.altKey || !!target.closest(OWN_LETTERS);
	}

	keys = (event: KeyboardEvent) => {
		const target = event.target as HTMLElement;
		const untouched = target.matches('input') && !fields.inUse(target) && !(target as HTMLInputElement).value;
		if (event.key === 'Tab') setTimeout(() => fields.use(document.activeElement));
		else if (event.key.length === 1 && !(event.key === '/' && untouched)) fields.use(target);
		if (event.key === 'Escape') this.keysShown = false;
		// a field that the page itself gave the focus: nobody is writing yet
		if (this.#taken(event, target) && !(event.key === '/' && untouched && !target.closest('[role=dialog]'))) return;
		if (event.key === 'Enter' && target.matches('[data-row]')) return target.click();
		if (event.key === 'V' && event.shiftKey) return staff.toggleVeil();
		if (!staff.letterKeys) return;
		this.#letter(event);
	};

	#letter(event: KeyboardEvent) {
		if (event.key === '?') return (this.keysShown = !this.keysShown);
		if (event.key === '/') {
			event.preventDefault();
			return (this.finding = true);
		}
		if (event.key === 'f') {
			event.preventDefault();
			return document.querySelector<HTMLElement>('[data-find]')?.focus();
		}
		if (this.going) {
			this.#go(false);
			const station = staff.me?.stations.find((s) => s.letter === event.key.toLowerCase());
			if (station) return void goto(this.keep(station.path));
		}
		if (event.key === 'g') return this.#go(true);
		if (event.key === 'j' || event.key === 'k') {
			const rows = [...document.querySelectorAll<HTMLElement>('[data-row]')];
			const now = rows.indexOf(document.activeElement as HTMLElement);
			rows[Math.max(0, Math.min(rows.length - 1, now + (event.key === 'j' ? 1 : -1)))]?.focus();
		}
	}
}
