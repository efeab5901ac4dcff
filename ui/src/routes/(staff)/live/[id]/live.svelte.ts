import { api, body, said, type Schemas } from '$lib/api/client';
import { Hub } from './hub.svelte';

type Showing = Schemas['ShowQuestionIn']['what'];

/** A live round as whoever holds it sees it. */
export class LiveRoundPage {
	data = $state<Schemas['LivePage'] | null>(null);
	problem = $state('');
	busy = $state(false);
	finding = $state('');
	found = $state<Schemas['LiveFound'][]>([]);
	searched = $state(false);
	words = $state('');
	options = $state('4');
	aloud = $state(false);
	ending = $state(false);
	evidence = $state(false);
	/** Numbers of response devices that belong to nobody here. */
	unknown = $state<number[]>([]);
	readonly hub = new Hub((presses) => this.#bring(presses));
	#put = '';

	constructor(readonly id: string) {}

	get path() {
		return { params: { path: { round_id: this.id } } };
	}

	get current() {
		return this.data?.current ?? null;
	}

	load = async () => {
		try {
			this.data = await body(api.GET('/api/live/{round_id}', this.path));
			this.#tellHub();
		} catch (error) {
			this.problem = said(error);
		}
	};

	follow = () => {
		const events = new EventSource(`/api/live/${this.id}/events`);
		events.addEventListener('open', () => void this.load());
		events.addEventListener('moved', () => void this.load());
		const look = setInterval(() => !document.hidden && void this.load(), 15_000); // who is stuck changes by itself
		return () => {
			clearInterval(look);
			events.close();
			this.hub.close();
		};
	};

	#tellHub() {
		const now = this.current;
		if (this.hub.state !== 'on' || !now) return;
		if (now.question.closed) this.hub.stop();
		else if (this.#put !== now.question.id) {
			this.#put = now.question.id;
			const right = now.bars.find((b) => b.right)?.answer ?? '';
			this.hub.ask(now.question.id, now.bars.length || 4, right);
		}
	}

	connectHub = () => {
		this.hub.connect();
		this.#put = '';
		setTimeout(() => this.#tellHub(), 500);
	};

	async #bring(presses: { device: number; option: string }[]) {
		try {
			const done = await body(api.POST('/api/live/{round_id}/presses', { ...this.path, body: { presses } }));
			this.unknown = [...new Set([...this.unknown, ...done.unknown])].sort((a, b) => a - b);
		} catch (error) {
			this.problem = said(error);
		}
	}

	async #do(work: () => Promise<unknown>) {
		this.busy = true;
		this.problem = '';
		try {
			await work();
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	}

	search = async (event: SubmitEvent) => {
		event.preventDefault();
		await this.#do(async () => {
			const asked = { params: { ...this.path.params, query: { text: this.finding } } };
			this.found = await body(api.GET('/api/live/{round_id}/find', asked));
			this.searched = true;
		});
	};

	ask = (item: string) =>
		this.#do(async () => {
			await api.POST('/api/live/{round_id}/ask', { ...this.path, body: { item, words: '', options: 4 } });
			[this.found, this.searched] = [[], false];
		});

	askAloud = async (event: SubmitEvent) => {
		event.preventDefault();
		await this.#do(async () => {
			const asked = { item: null, words: this.words, options: Number(this.options) };
			await api.POST('/api/live/{round_id}/ask', { ...this.path, body: asked });
			[this.aloud, this.words] = [false, ''];
		});
	};

	again = () => this.#do(() => api.POST('/api/live/{round_id}/again', this.path));

	show = (what: Showing) => this.#do(() => api.POST('/api/live/{round_id}/show', { ...this.path, body: { what } }));

	end = async () => {
		await this.#do(() => api.POST('/api/live/{round_id}/end', { ...this.path, body: { evidence: this.evidence } }));
		this.ending = false;
	};
}
