import { Mark, mergeAttributes, Node } from '@tiptap/core';

/** A formula, kept as MathML; a click opens it again. */
export const MathNode = Node.create<{ onopen: (mathml: string, put: (next: string) => void) => void }>({
	name: 'formula',
	group: 'inline',
	inline: true,
	atom: true,
	addOptions: () => ({ onopen: () => {} }),
	addAttributes: () => ({ mathml: { default: '', parseHTML: (node) => node.outerHTML, rendered: false } }),
	parseHTML: () => [{ tag: 'math', priority: 100 }],
	renderHTML: ({ node }) => {
		const holder = document.createElement('template');
		holder.innerHTML = node.attrs.mathml;
		return { dom: holder.content.firstElementChild ?? document.createElement('span') };
	},
	addNodeView() {
		return ({ node, getPos, editor }) => {
			const dom = document.createElement('span');
			dom.className = 'formula';
			dom.innerHTML = node.attrs.mathml;
			dom.title = 'Edit formula';
			dom.onclick = () =>
				this.options.onopen(node.attrs.mathml, (next) => {
					const at = getPos();
					if (at === undefined) return;
					editor
						.chain()
						.focus()
						.deleteRange({ from: at, to: at + 1 })
						.insertContentAt(at, next ? { type: 'formula', attrs: { mathml: next } } : '')
						.run();
				});
			return { dom };
		};
	}
});

/** A gap in the text, where a part of the question is answered. */
export const GapNode = Node.create({
	name: 'gap',
	group: 'inline',
	inline: true,
	atom: true,
	addAttributes: () => ({ id: { default: '', parseHTML: (node) => node.getAttribute('data-gap'), rendered: false } }),
	parseHTML: () => [{ tag: 'span[data-gap]', priority: 100 }],
	renderHTML: ({ node }) => ['span', { 'data-gap': node.attrs.id }],
	addNodeView() {
		return ({ node }) => {
			const dom = document.createElement('span');
			dom.className = 'gapmark';
			dom.textContent = `gap ${node.attrs.id}`;
			return { dom };
		};
	}
});

/** A piece of the text that can be picked. */
export const PickMark = Mark.create({
	name: 'pick',
	inclusive: false,
	addAttributes: () => ({ id: { default: '', parseHTML: (node) => node.getAttribute('data-pick'), rendered: false } }),
	parseHTML: () => [{ tag: 'span[data-pick]' }],
	renderHTML: ({ mark, HTMLAttributes }) => ['span', mergeAttributes(HTMLAttributes, { 'data-pick': mark.attrs.id }), 0]
});
