/** What a scientific calculator works out: numbers, + − × ÷ ^, brackets, roots, logarithms, angles in degrees. */

type Token = { kind: 'number'; value: number } | { kind: 'name' | 'sign'; text: string };

const FUNCTIONS: Record<string, (x: number) => number> = {
	'√': Math.sqrt,
	sin: (x) => Math.sin((x * Math.PI) / 180),
	cos: (x) => Math.cos((x * Math.PI) / 180),
	tan: (x) => (Math.abs((((x % 180) + 180) % 180) - 90) < 1e-9 ? NaN : Math.tan((x * Math.PI) / 180)),
	log: Math.log10,
	ln: Math.log
};

function tokens(text: string): Token[] {
	const found: Token[] = [];
	const rest = text.replaceAll(' ', '');
	const each = /(\d+\.?\d*(?:E[-−]?\d+)?|\.\d+)|(sin|cos|tan|log|ln|√|π|e)|([-+−×÷^()%!])/gy;
	while (each.lastIndex < rest.length) {
		const at = each.exec(rest);
		if (!at) throw new Error('not a calculation');
		if (at[1]) found.push({ kind: 'number', value: Number(at[1].replace('−', '-')) });
		else if (at[2] === 'π') found.push({ kind: 'number', value: Math.PI });
		else if (at[2] === 'e') found.push({ kind: 'number', value: Math.E });
		else if (at[2]) found.push({ kind: 'name', text: at[2] });
		else found.push({ kind: 'sign', text: at[3]!.replace('-', '−') });
	}
	return found;
}

/** The value; throws where it is no calculation or has no value. Powers bind first and to the right, then signs, products, sums. */
export function calculate(text: string): number {
	const list = tokens(text);
	let at = 0;
	const sign = (...texts: string[]) => {
		const t = list[at];
		return t?.kind === 'sign' && texts.includes(t.text) ? t.text : '';
	};

	function sum(): number {
		let value = product();
		for (let s = sign('+', '−'); s; s = sign('+', '−')) {
			at++;
			const next = product();
			value = s === '+' ? value + next : value - next;
		}
		return value;
	}
	function product(): number {
		let value = signed();
		for (;;) {
			const s = sign('×', '÷');
			const t = list[at];
			if (s) {
				at++;
				const next = signed();
				value = s === '×' ? value * next : value / next;
			} else if (t && (t.kind !== 'sign' || t.text === '('))
				value *= power(); // 2π, 3(4 + 1)
			else return value;
		}
	}
	function signed(): number {
		if (sign('−')) {
			at++;
			return -signed();
		}
		if (sign('+')) {
			at++;
			return signed();
		}
		return power();
	}
	function power(): number {
		const base = after();
		if (!sign('^')) return base;
		at++;
		return base ** signed();
	}
	function after(): number {
		let value = single();
		for (let s = sign('%', '!'); s; s = sign('%', '!')) {
			at++;
			value = s === '%' ? value / 100 : factorial(value);
		}
		return value;
	}
	function single(): number {
		const t = list[at++];
		if (!t) throw new Error('not a calculation');
		if (t.kind === 'number') return t.value;
		if (t.kind === 'name') return FUNCTIONS[t.text]!(power());
		if (t.text !== '(') throw new Error('not a calculation');
		const value = sum();
		if (!sign(')')) throw new Error('a bracket is open');
		at++;
		return value;
	}

	const value = sum();
	if (at < list.length) throw new Error('not a calculation');
	if (!Number.isFinite(value)) throw new Error('not possible');
	return Number(value.toPrecision(12)); // 0.1 + 0.2 reads 0.3
}

function factorial(n: number): number {
	if (!Number.isInteger(n) || n < 0 || n > 170) return NaN;
	let value = 1;
	for (let i = 2; i <= n; i++) value *= i;
	return value;
}

/** As it is shown: a long number in powers of ten. */
export function shownNumber(value: number): string {
	const size = Math.abs(value);
	const text = size !== 0 && (size >= 1e12 || size < 1e-9) ? value.toExponential(6) : String(value);
	return text.replace('-', '−').replace(/e\+?/, 'E').replace('E-', 'E−');
}
