import { said } from '$lib/api/client';

/** Something is done and the page looks again; what went wrong is said, and nothing else changes. */
export class Doing {
	problem = $state('');
	/** While work is on its way; a form is not sent twice. */
	busy = $state(false);

	constructor(private readonly after: () => unknown) {}

	/** `done` closes the form as soon as the work is in, before the page has looked again. */
	async do(work: () => Promise<unknown>, done: () => void = () => {}): Promise<void> {
		this.busy = true;
		try {
			await work();
			this.problem = '';
			this.busy = false;
			done();
			await this.after();
		} catch (error) {
			this.problem = said(error);
		} finally {
			this.busy = false;
		}
	}
}
