/** The words of item text, for one line of a list; a gap is a gap there as well. */
export function plain(html: string): string {
	const holder = new DOMParser().parseFromString(
		html
			.replace(/<span data-gap="\w+"><\/span>/g, '…')
			.replace(/<\/mn><mn>/g, '</mn>/<mn>')
			.replace(/<\/(p|blockquote|td)>/g, ' '),
		'text/html'
	);
	return (holder.body.textContent ?? '').replace(/\s+/g, ' ').trim();
}
