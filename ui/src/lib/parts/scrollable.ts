/** A region that scrolls can be reached and scrolled by keyboard. */
export function scrollable(node: HTMLElement) {
	node.tabIndex = 0;
}
