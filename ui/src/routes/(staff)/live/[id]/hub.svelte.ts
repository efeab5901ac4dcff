type Press = { device: number; option: string };

const ADDRESS = 'ws://127.0.0.1:8791';
const GATHER = 250; // milliseconds
const REMEMBERED = 5000;

/** Response devices by a hub on this machine (docs/live.md). A press that comes twice counts once. */
export class Hub {
	state = $state<'off' | 'connecting' | 'on' | 'none'>('off');
	devices = $state(0);
	lost = $state<number[]>([]);
	#socket: WebSocket | null = null;
	#seen = new Set<string>();
	#waiting: Press[] = [];
	#timer: ReturnType<typeof setTimeout> | undefined;
	#simulated = false;

	constructor(private readonly bring: (presses: Press[]) => Promise<void>) {}

	connect() {
		this.state = 'connecting';
		const socket = new WebSocket(ADDRESS);
		this.#socket = socket;
		socket.onmessage = (event) => this.#heard(String(event.data));
		socket.onclose = () => {
			this.state = this.state === 'connecting' ? 'none' : 'off';
			this.#socket = null;
		};
	}

	close() {
		this.#socket?.close();
		clearTimeout(this.#timer);
	}

	/** A question is open. right: only a simulated hub is told, so that its devices can answer by ability. */
	ask(id: string, options: number, right: string) {
		const simulate = this.#simulated ? { simulate: { right } } : {};
		this.#say({ type: 'question', id, options, ...simulate });
	}

	stop() {
		this.#say({ type: 'stop' });
	}

	#say(message: object) {
		if (this.#socket?.readyState === WebSocket.OPEN) this.#socket.send(JSON.stringify(message));
	}

	#heard(text: string) {
		let said: { type?: string; hub?: string; devices?: number[]; device?: number; option?: string; id?: string };
		try {
			said = JSON.parse(text);
		} catch {
			return;
		}
		if (said.type === 'hello') {
			this.state = 'on';
			this.devices = said.devices?.length ?? 0;
			this.#simulated = said.hub === 'simulated';
		} else if (said.type === 'lost' && said.device) this.lost = [...new Set([...this.lost, said.device])];
		else if (said.type === 'back') this.lost = this.lost.filter((n) => n !== said.device);
		else if (said.type === 'press' && said.device && said.option && said.id && !this.#seen.has(said.id)) {
			if (this.#seen.size > REMEMBERED) this.#seen.clear();
			this.#seen.add(said.id);
			this.#waiting.push({ device: said.device, option: said.option });
			this.#timer ??= setTimeout(() => void this.#send(), GATHER);
		}
	}

	async #send() {
		this.#timer = undefined;
		const presses = this.#waiting.splice(0);
		if (presses.length) await this.bring(presses);
	}
}
