/** What was just done, said for a while at the foot of the page, with Undo where it can be undone. */

const SHOWN = 8000; // milliseconds; long enough to read it and reach the button

type Toast = { id: number; text: string; undo?: () => void | Promise<void> };

class Toasts {
	shown = $state<Toast[]>([]);
	#next = 0;

	say(text: string, undo?: () => void | Promise<void>) {
		const id = this.#next++;
		this.shown = [...this.shown.slice(-2), { id, text, undo }];
		setTimeout(() => this.close(id), SHOWN);
	}

	async undo(toast: Toast) {
		this.close(toast.id);
		await toast.undo?.();
	}

	close(id: number) {
		this.shown = this.shown.filter((t) => t.id !== id);
	}
}

export const toasts = new Toasts();
