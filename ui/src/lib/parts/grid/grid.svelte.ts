/** What of a large grid is on the screen, and which cell has the focus. Rows and columns are places in the order shown. */
export class GridState {
	rows = $state(0);
	columns = $state(0);
	rowHeight = $state(28);
	columnWidth = $state(30);
	/** Width of the frozen first column, height of the frozen heads. */
	head = $state({ width: 200, height: 40 });
	top = $state(0);
	left = $state(0);
	size = $state({ width: 800, height: 500 });
	row = $state(0);
	column = $state(-1);

	static readonly MORE = 6; // rows and columns kept beyond the edge, so that scrolling meets what is there

	get firstRow() {
		return Math.max(0, Math.floor(this.top / this.rowHeight) - GridState.MORE);
	}
	get lastRow() {
		return Math.min(
			this.rows,
			Math.ceil((this.top + this.size.height - this.head.height) / this.rowHeight) + GridState.MORE
		);
	}
	get firstColumn() {
		return Math.max(0, Math.floor(this.left / this.columnWidth) - GridState.MORE);
	}
	get lastColumn() {
		return Math.min(
			this.columns,
			Math.ceil((this.left + this.size.width - this.head.width) / this.columnWidth) + GridState.MORE
		);
	}
	get visibleRows() {
		return range(this.firstRow, this.lastRow);
	}
	get visibleColumns() {
		return range(this.firstColumn, this.lastColumn);
	}
	get width() {
		return this.head.width + this.columns * this.columnWidth;
	}
	get height() {
		return this.head.height + this.rows * this.rowHeight;
	}

	/** Where to scroll so that the focused cell is seen; null where it is. */
	reveal(): { top: number; left: number } | null {
		const y = this.row * this.rowHeight;
		const room = this.size.height - this.head.height - this.rowHeight;
		const top = y < this.top ? y : y > this.top + room ? y - room : this.top;
		let left = this.left;
		if (this.column >= 0) {
			const x = this.column * this.columnWidth;
			const wide = this.size.width - this.head.width - this.columnWidth;
			left = x < this.left ? x : x > this.left + wide ? x - wide : this.left;
		}
		return top === this.top && left === this.left ? null : { top, left };
	}

	/** Moves the focus; true where the key was one of ours. Column -1 is the row's head, row -1 the heads. */
	move(key: string): boolean {
		const page = Math.max(1, Math.floor((this.size.height - this.head.height) / this.rowHeight) - 1);
		const steps: Record<string, [number, number]> = {
			ArrowDown: [1, 0],
			ArrowUp: [-1, 0],
			ArrowRight: [0, 1],
			ArrowLeft: [0, -1],
			PageDown: [page, 0],
			PageUp: [-page, 0],
			Home: [0, -this.columns - 1],
			End: [0, this.columns + 1]
		};
		const step = steps[key];
		if (!step) return false;
		this.row = Math.max(-1, Math.min(this.rows - 1, this.row + step[0]));
		this.column = Math.max(-1, Math.min(this.columns - 1, this.column + step[1]));
		return true;
	}
}

function range(from: number, to: number): number[] {
	return Array.from({ length: Math.max(0, to - from) }, (_, at) => from + at);
}
