import { api, body, type Schemas } from '$lib/api/client';

export type ImportKind = 'people' | 'bank' | 'support' | 'plans' | 'frameworks' | 'resources' | 'answers';
type Preview = Schemas['Preview'];
export type Matching = { matched: Record<string, string>; school: string; whole: boolean };

const PATHS = {
	people: '/api/people/imports',
	bank: '/api/bank/imports',
	support: '/api/people/support/imports',
	plans: '/api/plans/imports',
	frameworks: '/api/frameworks/imports'
} as const;

/** Files of the open roster standard; anything else is a sheet whose columns want matching. */
const ROSTER = /^(orgs|users|classes|courses|enrollments|academicSessions|roles|manifest|demographics)\.csv$/i;

export const isSheet = (files: File[]) =>
	files.length === 1 && /\.(xlsx|csv|tsv|txt)$/i.test(files[0]!.name) && !ROSTER.test(files[0]!.name);

function form(files: File[], matching?: Matching, title = '') {
	const data = new FormData();
	for (const file of files) data.append('files', file, file.name);
	if (title) data.append('title', title);
	if (matching) data.append('matching', JSON.stringify(matching));
	return { body: data as never, bodySerializer: (b: unknown) => b as never };
}

export const preview = (
	kind: ImportKind,
	files: File[],
	job: string,
	matching?: Matching,
	title = '',
	of = ''
): Promise<Preview> =>
	body(
		kind === 'resources'
			? api.POST('/api/planning/schools/{school}/imports', { params: { path: { school: of } }, ...form(files) })
			: kind === 'answers'
				? api.POST('/api/scoring/paper/{session}/imports', { params: { path: { session: of } }, ...form(files) })
				: kind === 'people'
					? api.POST(PATHS.people, { params: { query: { job } }, ...form(files, matching) })
					: api.POST(PATHS[kind], form(files, undefined, title))
	);

export const columnsOf = (files: File[]) => body(api.POST('/api/people/imports/columns', form(files)));

export function apply(kind: ImportKind, id: string, yes: boolean, job: string, of = ''): Promise<Preview> {
	const path = { import_id: id };
	if (kind === 'resources')
		return body(
			api.POST('/api/planning/schools/{school}/imports/{import_id}/apply', {
				params: { path: { ...path, school: of } }
			})
		);
	if (kind === 'answers')
		return body(
			api.POST('/api/scoring/paper/{session}/imports/{import_id}/apply', { params: { path: { ...path, session: of } } })
		);
	if (kind === 'people')
		return body(api.POST('/api/people/imports/{import_id}/apply', { params: { path, query: { job } }, body: { yes } }));
	if (kind === 'bank') return body(api.POST('/api/bank/imports/{import_id}/apply', { params: { path } }));
	if (kind === 'support')
		return body(api.POST('/api/people/support/imports/{import_id}/apply', { params: { path }, body: { yes } }));
	if (kind === 'frameworks')
		return body(api.POST('/api/frameworks/imports/{import_id}/apply', { params: { path }, body: { yes } }));
	return body(api.POST('/api/plans/imports/{import_id}/apply', { params: { path }, body: { yes } }));
}

/** Asks now and then how far a job is, until told to stop asking. */
export function follow(job: string, tell: (progress: Schemas['JobOut']) => void): () => void {
	const timer = setInterval(async () => {
		try {
			tell(await body(api.GET('/api/people/jobs/{job}', { params: { path: { job } } })));
		} catch {
			/* not begun yet, or over */
		}
	}, 400);
	return () => clearInterval(timer);
}

export const newJob = () =>
	[...crypto.getRandomValues(new Uint8Array(8))].map((b) => b.toString(16).padStart(2, '0')).join('');
