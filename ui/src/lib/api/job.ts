import { api } from './client';

const EVERY = 700;

/** Long work under a name of its own, with how far it is. say: told again and again, and an empty text once it is over. */
export async function withJob<T>(say: (progress: string) => void, work: (job: string) => Promise<T>): Promise<T> {
	const job = `j${crypto.getRandomValues(new Uint32Array(2)).join('')}`;
	const look = setInterval(async () => {
		const { data } = await api
			.GET('/api/quality/jobs/{job}', { params: { path: { job } } })
			.catch(() => ({ data: undefined }));
		if (data?.what) say(data.total ? `${data.what}, ${data.done} of ${data.total}` : data.what);
	}, EVERY);
	try {
		return await work(job);
	} finally {
		clearInterval(look);
		say('');
	}
}
