import { said } from '$lib/api/client';

/** Something is done and the page looks again; what went wrong is said, and nothing else changes. */
export class Doing {
	problem = $state('');

	constructor(private readonly after: () => unknown) {}

	async do(work: () => Promise<unknown>): Promise<boolean> {
		try {
			await work();
			this.problem = '';
			await this.after();
			return true;
		} catch (error) {
			this.problem = said(error);
			return false;
		}
	}
}
