import { api, body, Problem } from '$lib/api/client';
import { Held } from './held';
import { AnswerQueue, SendFailure, type Message, type Receipt } from './queue';
import { shelf } from './shelf';

const EVERY = 10_000;
const PATIENCE = 20_000;
const GONE = [404, 409]; // too old, or submitted already

/**
 * Brings what students who have left this device could not send, whoever works on it now. Nothing of it is shown to
 * anybody; only how much there is.
 */
export class Errands {
	/** Answers of other students that lie here. */
	answers = $state(0);
	/** How many students they are of. */
	students = $state(0);
	#busy = false;

	/** everyone: nobody works on this device now, so that what the last student could not send is brought as well. */
	constructor(private readonly everyone = false) {}

	/** Look at once, whenever there is a network again, and now and then. The returned function stops that. */
	start(): () => void {
		const look = () => void this.run();
		look();
		const clock = setInterval(look, EVERY);
		window.addEventListener('online', look);
		return () => {
			clearInterval(clock);
			window.removeEventListener('online', look);
		};
	}

	async run(): Promise<void> {
		if (this.#busy) return;
		this.#busy = true;
		try {
			const place = await shelf();
			await this.#tellLeft();
			const others = () => {
				const here = Held.present(place); // a student may come meanwhile
				const unsent = (h: Held) => h.unsent.length > 0 || h.submitted !== null;
				return Held.all(place).filter((h) => h.errand && (h.sitting !== here || (this.everyone && unsent(h))));
			};
			this.#count(others());
			for (const held of others()) await this.#bring(held);
			this.#count(others());
		} finally {
			this.#busy = false;
		}
	}

	#count(held: Held[]): void {
		this.answers = held.reduce((sum, h) => sum + h.unsent.length, 0);
		this.students = held.length;
	}

	/** Whoever left while there was no network is signed out now. */
	async #tellLeft(): Promise<void> {
		const place = await shelf();
		const csrf = Held.leaving(place);
		if (csrf === null || Held.present(place) !== null) return;
		try {
			await api.POST('/api/sit/leave', { headers: { 'x-bildung-csrf': csrf } });
		} catch (error) {
			if (!(error instanceof Problem)) return;
		}
		Held.setLeaving(place, null);
	}

	/** Nothing is left to bring, unless the student came back meanwhile. */
	#done(held: Held): void {
		if (Held.present(held.shelf) !== held.sitting) held.wipe();
	}

	async #bring(held: Held): Promise<void> {
		const { errand, submitted } = held;
		if (!errand) return;
		const send = async (answers: Message[], last = false): Promise<Receipt> => {
			const ended = last && submitted ? { submitted: submitted.at, time_over: submitted.timeOver } : {};
			try {
				const asked = {
					body: {
						delivery: errand.delivery,
						answers: answers.map((m) => ({ about: 'answer', ...m })),
						reached: errand.reached,
						section_ago: 0,
						times: [],
						visits: [],
						time_over: false,
						...ended
					},
					signal: AbortSignal.timeout(PATIENCE)
				};
				const receipt = await body(api.POST('/api/sit/deliver', asked));
				return { ...receipt, refused: receipt.refused.map((r) => ({ id: r.name, why: String(r.value) })) };
			} catch (error) {
				if (error instanceof Problem) throw new SendFailure(error.status, error.detail);
				throw error;
			}
		};
		let gone = false;
		const queue = new AnswerQueue(held.key, errand.takeover, 0, held.shelf, (batch) => send(batch), {
			signedOut: () => (gone = true)
		});
		try {
			if (queue.pending.length && !(await queue.flush()) && !gone) return;
			if (submitted && !gone) {
				await send([], true);
				held.drop('submitted');
			}
			this.#done(held);
		} catch (error) {
			if (error instanceof SendFailure && GONE.includes(error.status)) this.#done(held);
		} finally {
			queue.stop();
		}
	}
}
