import { api, body, Problem, said, type Schemas } from '$lib/api/client';
import { begin, type Content } from '$lib/bank/editor/kinds';
import { inline } from '$lib/sitting/question/answer';

const PAUSE = 900; // milliseconds without a change before the draft is saved

/** An item's draft on this page: changed in place, saved by itself, in order. */
export class Draft {
	wire = $state<Schemas['DraftView'] | null>(null);
	content = $state<Content | null>(null);
	template = $state<Schemas['Template'] | null>(null);
	standards = $state<string[]>([]);
	stimulus = $state<string | null>(null);
	status = $state<'' | 'saved' | 'writing' | 'saving' | 'kept'>('');
	problem = $state('');
	stale = $state(false);

	#timer: ReturnType<typeof setTimeout> | undefined;
	#changes = 0;
	#queue: Promise<void> = Promise.resolve();

	constructor(readonly id: string) {}

	async load() {
		this.#take(await body(api.POST('/api/bank/items/{item_id}/draft', { params: { path: { item_id: this.id } } })));
		this.status = 'kept';
	}

	#take(wire: Schemas['DraftView']) {
		this.wire = wire;
		this.content = wire.content;
		this.template = wire.template;
		this.standards = wire.standards;
		this.stimulus = wire.stimulus_id;
	}

	changed = () => {
		this.#changes++;
		this.status = 'writing';
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.save(), PAUSE);
	};

	/** Send what is there now; what is written meanwhile stays and follows. */
	save(): Promise<void> {
		clearTimeout(this.#timer);
		this.#queue = this.#queue.then(async () => {
			if (!this.content || !this.wire || this.stale) return;
			const mine = this.#changes;
			this.status = 'saving';
			try {
				const wire = await body(
					api.PUT('/api/bank/items/{item_id}/draft', {
						params: { path: { item_id: this.id } },
						body: {
							revision: this.wire.revision,
							content: $state.snapshot(this.content) as Content,
							standards: $state.snapshot(this.standards),
							stimulus_id: this.stimulus,
							template: $state.snapshot(this.template) as Schemas['Template'] | null
						}
					})
				);
				this.wire = { ...wire, content: this.wire.content };
				this.problem = '';
				this.status = mine === this.#changes ? 'saved' : 'writing';
			} catch (error) {
				this.problem = said(error);
				this.stale = error instanceof Problem && error.status === 409;
				this.status = 'writing';
				// without a network what was written stays here and is tried again
				if (error instanceof TypeError) this.#timer = setTimeout(() => void this.save(), 4000);
			}
		});
		return this.#queue;
	}

	/** Add section; its name is the next free number, or letter for a gap. */
	add(kind: string): string {
		if (!this.content) return '';
		const taken = this.content.shown.parts.map((p) => p.id);
		let n = 1;
		while (taken.includes(String(n))) n++;
		const { part, scoring } = begin(kind, String(n));
		if (part.type === 'writing' && part.beside) part.beside = taken.at(-1) ?? '';
		this.content.shown.parts.push(part);
		this.content.scoring.push(scoring);
		this.changed();
		return part.id;
	}

	/** A gap takes the place of an empty first part that nobody has written in yet. */
	gap(kind: 'entry' | 'menu'): string {
		const first = this.content?.shown.parts[0];
		const untouched =
			this.content?.shown.parts.length === 1 && first?.type === 'choice' && first.options.every((o) => !o.html);
		const id = this.add(kind === 'menu' ? 'menu' : 'gap');
		if (untouched) this.remove(0);
		return id;
	}

	replace(at: number, kind: string) {
		const old = this.content?.shown.parts[at];
		if (!this.content || !old) return;
		const { part, scoring } = begin(kind, old.id);
		part.prompt = old.prompt;
		this.content.shown.parts[at] = part;
		this.content.scoring[at] = scoring;
		this.content.behind.misconceptions = this.content.behind.misconceptions.filter((m) => m.part !== old.id);
		this.changed();
	}

	remove(at: number) {
		const part = this.content?.shown.parts[at];
		if (!this.content || !part) return;
		this.content.shown.parts.splice(at, 1);
		this.content.scoring.splice(at, 1);
		if (inline(part))
			this.content.shown.body = this.content.shown.body.replace(`<span data-gap="${part.id}"></span>`, '');
		for (const s of this.content.scoring) if (s.needs === part.id) [s.needs, s.carried] = ['', []];
		for (const p of this.content.shown.parts) if (p.type === 'writing' && p.beside === part.id) p.beside = '';
		this.content.behind.misconceptions = this.content.behind.misconceptions.filter((m) => m.part !== part.id);
		this.changed();
	}

	/** Gaps that were deleted in the text go with their parts. */
	body(html: string) {
		if (!this.content) return;
		this.content.shown.body = html;
		const there = new Set([...html.matchAll(/data-gap="(\w+)"/g)].map((m) => m[1]));
		this.content.shown.parts
			.map((p, at) => [p, at] as const)
			.filter(([p]) => inline(p) && !there.has(p.id))
			.toReversed()
			.forEach(([, at]) => this.content && this.content.shown.parts.length > 1 && this.remove(at));
		this.changed();
	}

	async act(what: 'review' | 'finish' | 'discard', back = false): Promise<boolean> {
		await this.save();
		if (this.problem || !this.wire) return false;
		const options = { params: { path: { item_id: this.id } }, body: { revision: this.wire.revision, back } };
		try {
			if (what === 'review') this.#take(await body(api.POST('/api/bank/items/{item_id}/draft/review', options)));
			else if (what === 'finish') await api.POST('/api/bank/items/{item_id}/draft/finish', options);
			else await api.POST('/api/bank/items/{item_id}/draft/discard', options);
			return true;
		} catch (error) {
			this.problem = said(error);
			return false;
		}
	}

	stop() {
		clearTimeout(this.#timer);
	}
}
