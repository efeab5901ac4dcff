/** Questions before something is lost, asked one at a time by the one dialog of the page (`Questions.svelte`). */

export type Question = {
	title: string;
	/** What will be lost, or what happens then. */
	says?: string;
	/** The verb of what is about to be done, as on its button. */
	yes: string;
	/** What to write; with it the answer is the text. */
	reason?: string;
	/** The answer may be empty. */
	optional?: boolean;
	/** Nothing is lost: the button is not marked as dangerous. */
	safe?: boolean;
};

type Asked = Question & { answer: (text: string | null) => void };

class Questions {
	asked = $state<Asked | null>(null);

	/** What was answered, '' for a plain yes; null where it was canceled. */
	ask(question: Question): Promise<string | null> {
		this.asked?.answer(null);
		return new Promise((answer) => {
			this.asked = {
				...question,
				answer: (text) => {
					this.asked = null;
					answer(text);
				}
			};
		});
	}
}

export const questions = new Questions();

/** Whether somebody says yes. */
export async function sure(question: Question): Promise<boolean> {
	return (await questions.ask(question)) !== null;
}
