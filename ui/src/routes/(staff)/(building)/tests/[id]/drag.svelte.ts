import type { Schemas } from '$lib/api/client';
import type { FormPage } from './form.svelte';

/** What is being dragged onto the form, and the place that it would take. */
export class Drag {
	/** An item of the bank. */
	carried = $state<Schemas['BankItem'] | null>(null);
	/** The place of an item that is on the form already. */
	from = $state<number | null>(null);
	over = $state(-1);

	get running(): boolean {
		return this.carried !== null || this.from !== null;
	}

	end() {
		[this.carried, this.from, this.over] = [null, null, -1];
	}

	/** What comes from the bank takes the place, what was on the form moves there. */
	dropped(shown: FormPage, at: number) {
		if (this.carried) shown.insert(at, this.carried);
		else if (this.from !== null) shown.move(this.from, at);
		this.end();
	}
}
