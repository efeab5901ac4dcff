import { api, body, said, type Schemas } from '$lib/api/client';
import type { PageLoad } from './$types';

/** The form that is printed, with its companions where it has some. */
export const load: PageLoad = async ({ params, parent }) => {
	await parent();
	let form: Schemas['FormDetail'] | null = null;
	let family: Schemas['FormFamily'] | null = null;
	let problem = '';
	try {
		form = await body(api.GET('/api/forms/{form_id}', { params: { path: { form_id: params.id } } }));
		const family_id = form.family_id;
		if (family_id)
			family = await body(api.GET('/api/building/families/{family_id}', { params: { path: { family_id } } }));
	} catch (error) {
		problem = said(error);
	}
	return { id: params.id, form, family, problem };
};
