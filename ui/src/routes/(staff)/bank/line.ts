/** The line that is looked for, as controls read and write it: `boat grade:6 p<40%`. */

const TERM = /(-?)(?:([a-z]+)(:|<=|>=|<|>)((?:"[^"]*"|[^\s",]+)(?:,(?:"[^"]*"|[^\s",]+))*)|"([^"]*)"|([^\s"]+))/g;

/** The value of a field in a line, or empty. */
export function valueOf(line: string, field: string, sign = ':'): string {
	for (const m of line.matchAll(TERM))
		if (m[2] === field && m[3] === sign && !m[1]) return (m[4] ?? '').replaceAll('"', '');
	return '';
}

/** The line with this field set, or without it where the value is empty; everything else stays. */
export function withValue(line: string, field: string, value: string, sign = ':'): string {
	const rest = line.replace(TERM, (all, minus: string, name: string | undefined, found: string | undefined) =>
		name === field && found === sign && !minus ? '' : all
	);
	const said = value && /[\s,:<>]/.test(value) ? `"${value}"` : value;
	return `${rest.trim()} ${value ? `${field}${sign}${said}` : ''}`.replace(/\s+/g, ' ').trim();
}
