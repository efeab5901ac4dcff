import type { Schemas } from '$lib/api/client';
import { pagesKept } from './pages';
import { shelf } from './shelf';

const VOICES = 1500; // milliseconds that a browser may take to list its voices

/** One thing that a device can or cannot do, in plain words. */
export type Finding = { name: string; good: boolean; says: string };

/** Whether there is a voice to read aloud with. */
export async function speaks(): Promise<boolean> {
	if (!('speechSynthesis' in window)) return false;
	if (speechSynthesis.getVoices().length) return true;
	return new Promise((found) => {
		const timer = setTimeout(() => found(speechSynthesis.getVoices().length > 0), VOICES);
		speechSynthesis.addEventListener(
			'voiceschanged',
			() => {
				clearTimeout(timer);
				found(speechSynthesis.getVoices().length > 0);
			},
			{ once: true }
		);
	});
}

/** What the room is told. ahead: milliseconds that the server's clock is ahead. holds: answers of other students. */
export async function checkDevice(ahead: number, aloud: boolean, holds: number): Promise<Schemas['DeviceCheck']> {
	return {
		keeps: (await shelf()).keeps,
		stays: await pagesKept(),
		speaks: !aloud || (await speaks()),
		ahead: Math.round(-ahead / 1000),
		width: window.innerWidth,
		height: window.innerHeight,
		holds
	};
}

const REMEMBERED = 'bildung.seen';
const LEAST_WIDTH = 320;
const WRONG_CLOCK = 120; // seconds

/** The same for whoever sets devices up, before a session. */
export async function findings(): Promise<Finding[]> {
	const place = await shelf();
	const began = performance.now();
	let connection: Finding = { name: 'Connection', good: false, says: 'The server cannot be reached from this device.' };
	let clock: Finding | null = null;
	try {
		const answer = await fetch('/api/welcome', { signal: AbortSignal.timeout(8000), cache: 'no-store' });
		const took = Math.round(performance.now() - began);
		connection = { name: 'Connection', good: answer.ok, says: `The server answered in ${took} milliseconds.` };
		const there = Date.parse(answer.headers.get('date') ?? '');
		if (there) {
			const off = Math.round((Date.now() - there) / 1000);
			clock =
				Math.abs(off) < WRONG_CLOCK
					? { name: 'Clock', good: true, says: 'Right.' }
					: {
							name: 'Clock',
							good: false,
							says: `${Math.round(Math.abs(off) / 60)} minutes ${off > 0 ? 'fast' : 'slow'}. Tests go by the server's clock, so no time is lost.`
						};
		}
	} catch {
		/* said above */
	}
	const remembers = place.getItem(REMEMBERED) !== null;
	if (place.keeps) place.setItem(REMEMBERED, new Date().toISOString());
	await place.settled();
	const voice = await speaks();
	return [
		connection,
		{
			name: 'Storage',
			good: place.keeps,
			says: place.keeps
				? 'Answers are kept on this device while the network is away.'
				: 'This browser keeps nothing. Do not close the page while anything is unsaved.'
		},
		{
			name: 'Memory of earlier use',
			good: true, // a first check remembers nothing, which is no fault
			says: remembers
				? 'This browser remembers an earlier check.'
				: 'None. If this is not the first check here, the browser forgets everything when it is closed or signed out: students must not close it while anything is unsaved.'
		},
		{
			name: 'Without a network',
			good: 'serviceWorker' in navigator,
			says:
				'serviceWorker' in navigator
					? 'A test that was opened here can be reloaded and continued.'
					: 'A test continues as long as its page stays open, but cannot be reloaded: this address is not secure (https).'
		},
		{
			name: 'Voice',
			good: voice,
			says: voice ? 'Text can be read aloud.' : 'This browser has no voice; text cannot be read aloud here.'
		},
		...(clock ? [clock] : []),
		{
			name: 'Window',
			good: window.innerWidth >= LEAST_WIDTH,
			says: `${window.innerWidth} by ${window.innerHeight} points${window.innerWidth >= LEAST_WIDTH ? '' : ': too narrow; 320 are needed'}.`
		}
	];
}
