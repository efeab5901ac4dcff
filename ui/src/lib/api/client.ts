import createClient, { type Middleware } from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];

/** What the server said when it could not do what was asked (RFC 9457). */
export class Problem extends Error {
	constructor(
		readonly status: number,
		readonly title: string,
		readonly detail: string,
		readonly place: string | null
	) {
		super(detail);
	}
}

/** The token that every write carries; one for staff, one for a sitting, one for a student's or family's own page. */
export const tokens = { staff: '', sitting: '', own: '' };

const guard: Middleware = {
	onRequest({ request, schemaPath }) {
		const whose = schemaPath.startsWith('/api/sit/')
			? 'sitting'
			: /^\/api\/(own|family)/.test(schemaPath)
				? 'own'
				: 'staff';
		if (request.method !== 'GET') request.headers.set('x-bildung-csrf', tokens[whose]);
		return request;
	},
	async onResponse({ response }) {
		if (response.ok) return response;
		let body: Partial<Schemas['ProblemOut']> = {};
		try {
			body = await response.json();
		} catch {
			/* a proxy's own page, not ours */
		}
		throw new Problem(
			response.status,
			body.title ?? 'The server did not answer as expected',
			body.detail ?? 'try again in a moment',
			body.place ?? null
		);
	}
};

export const api = createClient<paths>({ baseUrl: '', querySerializer: { array: { style: 'form', explode: true } } });
api.use(guard);

/** The body of an answer; a problem is thrown before this is reached. */
export async function body<T>(answer: Promise<{ data?: T }>): Promise<T> {
	return (await answer).data as T;
}

/** What was asked for cannot be shown, in the server's words alone: a heading needs no title of its own. */
export function plainly(error: unknown): string {
	return error instanceof Problem
		? `${error.detail[0]?.toUpperCase() ?? ''}${error.detail.slice(1)}.`.replace(/\.\.$/, '.')
		: said(error);
}

/** A sentence for the person, whatever went wrong. */
export function said(error: unknown): string {
	if (error instanceof Problem) return `${error.title}: ${error.detail}`;
	if (error instanceof TypeError) return 'The server cannot be reached. Nothing was lost here; try again in a moment.';
	return String(error);
}
