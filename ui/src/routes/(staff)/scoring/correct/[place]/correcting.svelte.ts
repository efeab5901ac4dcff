import { api, body, said, type Schemas } from '$lib/api/client';
import { withJob } from '$lib/api/job';

type Wish = Omit<Schemas['DecisionIn'], 'reason' | 'asof'>;
export type Kind = 'key' | 'drop' | 'everybody' | 'score' | 'rescore';
const KINDS: Kind[] = ['key', 'drop', 'everybody', 'score', 'rescore'];

/** One correction: what it is to be, what would move, and the decision. Nothing is changed before that. */
export class Correcting {
	item = $state.raw<Schemas['Correctable'] | null>(null);
	preview = $state.raw<Schemas['CorrectionPreview'] | null>(null);
	kind = $state<Kind>('key');
	part = $state('');
	key = $state('');
	spelling = $state('');
	unreached = $state(true);
	points = $state<number | null>(null);
	reason = $state('');
	problem = $state('');
	/** What kept it from being tried, such as a key that is none. */
	refused = $state('');
	busy = $state(false);
	progress = $state('');
	done = $state('');
	readonly window: string;
	readonly sitting: string | null;
	readonly scorer: string | null;
	readonly scoring: string | null;
	#asked = 0;

	constructor(
		readonly place: string,
		wish: URLSearchParams
	) {
		this.window = wish.get('window') ?? '';
		this.sitting = wish.get('sitting');
		this.scorer = wish.get('scorer');
		this.scoring = wish.get('scoring');
		this.kind = KINDS.find((kind) => kind === wish.get('kind')) ?? 'key';
		this.#wished = { key: wish.get('key'), also: wish.get('also') };
	}
	readonly #wished: { key: string | null; also: string | null };

	async load() {
		try {
			this.item = await body(
				api.GET('/api/corrections/items/{place}', {
					params: { path: { place: this.place }, query: { window: this.window } }
				})
			);
		} catch (error) {
			this.problem = said(error);
			return;
		}
		if (this.kind === 'key' && !this.item.parts.length) this.kind = 'everybody';
		this.choosePart(this.item.parts[0]?.id ?? '');
		if (this.#wished.key !== null) this.key = this.#wished.key;
		if (this.#wished.also !== null) this.key = `${this.key}|${this.#wished.also}`;
		if (this.ready) await this.look();
	}

	get scored(): Schemas['ScoredPartView'] | undefined {
		return this.item?.parts.find((part) => part.id === this.part);
	}

	choosePart(id: string) {
		this.part = id;
		[this.key, this.spelling] = [this.scored?.key ?? '', this.scored?.spelling ?? ''];
	}

	/** Options of a choice that the key takes in; a key of several that must all be chosen joins them otherwise. */
	get chosen(): string[] {
		return this.key.split(this.scored?.several ? '+' : '|').filter(Boolean);
	}

	choose(options: string[]) {
		this.key = options.join(this.scored?.several ? '+' : '|');
	}

	/** Whether there is anything to try. */
	get ready(): boolean {
		if (this.kind === 'score') return this.points !== null && !!this.sitting;
		if (this.kind === 'key') return this.key !== this.scored?.key || this.spelling !== this.scored?.spelling;
		return true;
	}

	#wish(job: string): Wish {
		const of = { kind: this.kind, place: this.place, window: this.window, job };
		const empty = { part: '', key: '', spelling: '', unreached: true, points: null };
		const whose = { sitting: this.sitting, scorer: this.scorer, scoring: this.scoring ? +this.scoring : null };
		if (this.kind === 'key')
			return { ...of, ...empty, ...whose, part: this.part, key: this.key, spelling: this.spelling };
		return { ...of, ...empty, ...whose, unreached: this.unreached, points: this.points };
	}

	/** What would move by what is chosen now; an answer that was overtaken is dropped. */
	async look() {
		const mine = ++this.#asked;
		[this.done, this.refused] = ['', ''];
		if (!this.ready) {
			this.preview = null;
			return;
		}
		await this.#working(async (job) => {
			try {
				const query = Object.fromEntries(Object.entries(this.#wish(job)).filter(([, value]) => value !== null));
				const found = await body(api.GET('/api/corrections/preview', { params: { query: query as unknown as Wish } }));
				if (mine === this.#asked) this.preview = found;
			} catch (error) {
				if (mine === this.#asked) [this.preview, this.refused] = [null, said(error)];
			}
		});
	}

	async decide() {
		const asof = this.preview?.asof;
		if (!asof || !this.reason.trim()) return;
		await this.#working(async (job) => {
			try {
				const made = await body(
					api.POST('/api/corrections', { body: { ...this.#wish(job), reason: this.reason.trim(), asof } })
				);
				[this.done, this.preview, this.reason] = [made.says, null, ''];
				await this.#again();
			} catch (error) {
				this.problem = said(error);
			}
		});
	}

	async undo(correction: string, why: string) {
		try {
			const made = await body(
				api.POST('/api/corrections/{correction}/undo', {
					params: { path: { correction } },
					body: { reason: why }
				})
			);
			this.done = made.says;
			await this.#again();
		} catch (error) {
			this.problem = said(error);
		}
	}

	/** The item as it is scored now, after something was decided about it. */
	async #again() {
		this.item = await body(
			api.GET('/api/corrections/items/{place}', {
				params: { path: { place: this.place }, query: { window: this.window } }
			})
		);
		this.choosePart(this.part);
		this.points = null;
	}

	async #working(work: (job: string) => Promise<void>) {
		this.busy = true;
		await withJob((progress) => (this.progress = progress), work);
		this.busy = false;
	}
}
