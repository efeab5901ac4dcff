/**
 * A passage that stands set apart at the head of a question's text, and the text that follows it; null where there is
 * none. A passage that holds a gap is part of the question: its fields must stand where they are answered.
 */
export function leadingPassage(html: string): { passage: string; question: string } | null {
	const holder = document.createElement('template');
	holder.innerHTML = html;
	const nodes = [...holder.content.childNodes];
	const end = nodes.findIndex((node) => node instanceof Element && node.tagName === 'BLOCKQUOTE');
	if (end < 0) return null;
	const [lead, rest] = [markupOf(nodes.slice(0, end + 1)), markupOf(nodes.slice(end + 1))];
	if (lead.querySelector('[data-gap]') || !rest.textContent?.trim()) return null;
	return { passage: lead.innerHTML, question: rest.innerHTML };
}

function markupOf(nodes: ChildNode[]): HTMLDivElement {
	const box = document.createElement('div');
	box.append(...nodes.map((node) => node.cloneNode(true)));
	return box;
}
