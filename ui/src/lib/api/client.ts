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

/** The token that every write carries; one for staff, one for a sitting. */
export const tokens = { staff: '', sitting: '' };

const guard: Middleware = {
	onRequest({ request, schemaPath }) {
		const sitting = schemaPath.startsWith('/api/sit/');
		if (request.method !== 'GET') request.headers.set('x-bildung-csrf', sitting ? tokens.sitting : tokens.staff);
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

/** A sentence for the person, whatever went wrong. */
export function said(error: unknown): string {
	if (error instanceof Problem) return `${error.title}: ${error.detail}`;
	if (error instanceof TypeError) return 'The server cannot be reached. Nothing was lost here; try again in a moment.';
	return String(error);
}

/** Upload files to one of the import addresses. */
export async function upload(path: '/api/people/imports' | '/api/bank/imports', files: File[]) {
	const form = new FormData();
	for (const file of files) form.append('files', file, file.name);
	return body(api.POST(path, { body: form as never, bodySerializer: (b) => b as never }));
}
