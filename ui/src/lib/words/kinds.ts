/** Kinds of test as the trade says them; the names of the contract are older. */
const KINDS: Record<string, string> = {
	starting: 'pretest',
	closing: 'posttest',
	unit: 'unit test',
	task: 'performance task',
	spot: 'quick check',
	mirror: 'practice test',
	'': 'no kind'
};

export const kindOfTest = (name: string): string => KINDS[name] ?? name;
