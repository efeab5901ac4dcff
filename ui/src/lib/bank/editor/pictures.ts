import { api, body, type Schemas } from '$lib/api/client';

/** Keep a picture or a sound; the server looks into it and writes it anew. */
export async function keepMedia(file: File): Promise<Schemas['MediaOut']> {
	const data = new FormData();
	data.append('file', file);
	return body(api.POST('/api/bank/media', { body: { file: '' }, bodySerializer: () => data }));
}
