import { Problem } from '$lib/api/client';

type Asked = { params?: { path?: Record<string, string>; query?: Record<string, unknown> }; body?: unknown };
type Reply = (asked: Asked) => unknown;

/** A server made of replies, for the modules behind pages: what is asked is noted, and what no reply is given for fails.
 *  Used in place of `api` by `vi.mock('$lib/api/client', …)`. */
export class StandIn {
	replies = new Map<string, Reply>();
	asked: { route: string; given: Asked }[] = [];

	on(route: string, reply: Reply) {
		this.replies.set(route, reply);
	}

	/** What was sent to a route, in order. */
	sent(route: string): unknown[] {
		return this.asked.filter((a) => a.route === route).map((a) => a.given.body);
	}

	#ask =
		(method: string) =>
		async (path: string, given: Asked = {}) => {
			const route = `${method} ${path}`;
			// what is sent leaves as text: later changes of the page's objects do not reach it
			this.asked.push({ route, given: JSON.parse(JSON.stringify({ ...given, signal: undefined })) });
			const reply = this.replies.get(route);
			if (!reply) throw new Error(`nothing stands in for ${route}`);
			return { data: await reply(given) };
		};

	api = { GET: this.#ask('GET'), POST: this.#ask('POST'), PUT: this.#ask('PUT'), DELETE: this.#ask('DELETE') };
}

export function refusal(status: number, detail: string): Problem {
	return new Problem(status, 'Not possible', detail, null);
}

/** Let everything that waits for an answer go on. */
export async function settled(): Promise<void> {
	for (let turn = 0; turn < 40; turn++) await Promise.resolve();
}
