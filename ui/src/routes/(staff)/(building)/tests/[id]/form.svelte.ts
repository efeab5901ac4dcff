import { api, body, Problem, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

type Item = Schemas['BankItem'];

/** A form as its page shows and changes it. Changes are shown at once and saved in order. */
export class FormPage {
	form = $state<Schemas['FormDetail'] | null>(null);
	standards = $state<Schemas['StandardLine'][]>([]);
	units = $state<Schemas['UnitStock'][]>([]);
	outlook = $state<Schemas['OutlookOut'] | null>(null);
	correction = $state<Schemas['Correction'] | null>(null);
	checks = $state<Schemas['Check'][] | null>(null);
	problem = $state('');
	saving = $state('');
	/** Moves with what is shown of the bank; an answer that was overtaken is dropped. */
	bank = $state<Schemas['BankOut'] | null>(null);
	find = $state('');
	standard = $state('');
	#asked = 0;
	#queue = Promise.resolve();
	#changes = 0;

	constructor(readonly id: string) {}

	static async open(id: string): Promise<FormPage> {
		const page = new FormPage(id);
		try {
			const [form, overview] = await Promise.all([
				body(api.GET('/api/forms/{form_id}', page.#path)),
				body(api.GET('/api/bank/overview'))
			]);
			[page.form, page.standards] = [form, overview.standards];
			await Promise.all([page.search(), page.look(), page.touch(), page.draft ? page.stock() : null]);
		} catch (error) {
			page.problem = said(error);
		}
		return page;
	}

	get #path() {
		return { params: { path: { form_id: this.id } } };
	}

	get draft(): boolean {
		return this.form !== null && this.form.published_at === null && staff.may('tests.write');
	}

	get several(): boolean {
		return (this.form?.part_names.length ?? 0) > 1;
	}

	/** Whether the items stand part by part. */
	get sorted(): boolean {
		const parts = this.form?.parts ?? [];
		return parts.every((part, at) => at === 0 || part >= (parts[at - 1] ?? 0));
	}

	get inForm(): Set<string> {
		return new Set(this.form?.items.map((item) => item.version_id));
	}

	partName(at: number): string {
		return this.form?.part_names[at] || `Section ${at + 1}`;
	}

	/** Do something that the server may refuse; what it says is shown. */
	async #trying(work: () => Promise<void>) {
		try {
			await work();
		} catch (error) {
			this.problem = said(error);
		}
	}

	/** What the form holds and will do, as the server works it out; asked again after every change. */
	async look() {
		this.outlook = await body(api.GET('/api/building/forms/{form_id}/outlook', this.#path));
	}

	/** Which form this one corrects, which corrects it, and whom that touches. */
	async touch() {
		this.correction = await body(api.GET('/api/building/forms/{form_id}/correction', this.#path));
	}

	/** What each unit of the course could fill it with. */
	async stock() {
		const found = await body(api.GET('/api/building/forms/{form_id}/units', this.#path));
		this.units = found.filter((unit) => unit.items);
	}

	/** Items of the bank that fit the line; those of the form's subject and grade where there are any. */
	async search() {
		const mine = ++this.#asked;
		const { form, find, standard } = this;
		const usable = `${find} -is:template -state:retired ${standard ? `standard:${standard}` : ''}`;
		const subject = form?.subject ? ` subject:"${form.subject}"` : '';
		const here = standard ? '' : `${subject}${form?.grade ? ` grade:${form.grade}` : ''}`;
		const ask = (line: string) => body(api.GET('/api/bank/items', { params: { query: { find: line, limit: 300 } } }));
		let answer = await ask(usable + here);
		// items that were brought in without subject or grade must be found all the same
		if (!answer.total && here) answer = await ask(usable);
		if (mine === this.#asked) this.bank = answer;
	}

	/** Show the change at once, save in order; what somebody else did meanwhile is shown as it is. */
	change(items: Item[], parts: number[] | null = null) {
		const form = this.form;
		if (!form) return;
		const partOf = new Map(form.items.map((item, at) => [item.version_id, form.parts[at] ?? 0]));
		form.items = items;
		form.parts = parts ?? items.map((item) => partOf.get(item.version_id) ?? 0);
		this.saving = 'Saving …';
		const mine = ++this.#changes;
		this.#queue = this.#queue.then(() => this.#save(mine));
	}

	async #save(mine: number) {
		const form = this.form;
		if (!form || mine !== this.#changes) return; // a later change carries this one
		const wanted = { revision: form.revision, items: form.items.map((item) => item.version_id), parts: form.parts };
		try {
			const saved = await body(api.PUT('/api/forms/{form_id}/items', { ...this.#path, body: wanted }));
			if (mine === this.#changes) {
				this.form = saved;
				await this.look();
				this.saving = 'Saved';
			} else form.revision = saved.revision;
		} catch (error) {
			this.problem = said(error);
			this.saving = '';
			if (error instanceof Problem && error.status === 409)
				this.form = await body(api.GET('/api/forms/{form_id}', this.#path));
		}
	}

	add(item: Item) {
		if (this.form) this.change([...this.form.items, item]);
	}

	drop(at: number) {
		if (this.form) this.change(this.form.items.toSpliced(at, 1));
	}

	move(from: number, to: number) {
		const items = [...(this.form?.items ?? [])];
		if (to < 0 || to >= items.length || from === to) return;
		const [item] = items.splice(from, 1);
		if (item) items.splice(to, 0, item);
		this.change(items);
	}

	/** Put an item of the bank at a place; what was there follows it. */
	insert(at: number, item: Item) {
		const form = this.form;
		if (!form) return;
		const part = form.parts[Math.min(at, form.parts.length - 1)] ?? 0;
		this.change(form.items.toSpliced(at, 0, item), form.parts.toSpliced(at, 0, part));
	}

	exchange(at: number, other: Item) {
		if (this.form) this.change(this.form.items.with(at, other), this.form.parts);
	}

	toPart(at: number, part: number) {
		const form = this.form;
		if (form && part >= 0 && part < form.part_names.length) this.change(form.items, form.parts.with(at, part));
	}

	/** The items part by part, each part in the order it has. */
	byParts() {
		const form = this.form;
		if (!form) return;
		const order = form.items
			.map((item, at) => ({ item, part: form.parts[at] ?? 0, at }))
			.toSorted((a, b) => a.part - b.part || a.at - b.at);
		this.change(
			order.map((o) => o.item),
			order.map((o) => o.part)
		);
	}

	/** Everything of a unit of the course, and of the units before it where that is wished. */
	async fill(unit: string, earlier: boolean) {
		await this.#queue;
		await this.#trying(async () => {
			const wanted = { revision: this.form?.revision ?? 0, unit, earlier };
			this.form = await body(api.POST('/api/building/forms/{form_id}/pool', { ...this.#path, body: wanted }));
			this.saving = 'Saved';
			await this.look();
		});
	}

	/** The nearest items to one on the form; null where they could not be asked for. */
	async nearest(version_id: string): Promise<Schemas['Equal'][] | null> {
		let found: Schemas['Equal'][] | null = null;
		await this.#trying(async () => {
			const path = { form_id: this.id, version_id };
			found = await body(api.GET('/api/building/forms/{form_id}/equals/{version_id}', { params: { path } }));
		});
		return found;
	}

	/** What is looked through before a form goes out; the server refuses what stops it all the same. */
	async review() {
		if (this.checks) return void (this.checks = null);
		await this.#queue;
		await this.#trying(async () => {
			this.checks = await body(api.GET('/api/building/forms/{form_id}/checks', this.#path));
		});
	}

	async publish() {
		await this.#queue;
		await this.#trying(async () => {
			const wanted = { revision: this.form?.revision ?? 0 };
			this.form = await body(api.POST('/api/forms/{form_id}/publish', { ...this.#path, body: wanted }));
			this.checks = null;
			await this.touch();
		});
	}

	/** A new version of a published form, to be changed and published in its place; its id, or null. */
	async correct(): Promise<string | null> {
		let made: string | null = null;
		await this.#trying(async () => {
			made = (await body(api.POST('/api/building/forms/{form_id}/correct', this.#path))).ids[0] ?? null;
		});
		return made;
	}

	kept(form: Schemas['FormDetail']) {
		[this.form, this.saving] = [form, 'Saved'];
	}
}
