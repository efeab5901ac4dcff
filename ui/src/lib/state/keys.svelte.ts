import { untrack } from 'svelte';

/** Keys that parts of the page at hand understand, to be told by `?`: key and what it does. */
type Key = [key: string, does: string];
let told = $state<Key[][]>([]);

export const keysHere = {
	get all(): Key[] {
		return told.flat();
	}
};

/** To be called while a component is made; its keys are told as long as it is there and `on` holds. */
export function tellKeys(list: Key[], on: () => boolean = () => true): void {
	$effect(() => {
		if (!on()) return;
		told = [...untrack(() => told), list];
		return () => (told = told.filter((other) => other !== list));
	});
}

const used = new WeakSet<EventTarget>();

/** Fields that somebody chose or wrote in, unlike those that a page gave the focus by itself. */
export const fields = {
	use(target: EventTarget | null): void {
		if (target) used.add(target);
	},
	inUse: (target: EventTarget): boolean => used.has(target)
};
