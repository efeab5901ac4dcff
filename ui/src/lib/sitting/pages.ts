import { preloadCode } from '$app/navigation';

/** The student's pages as files on the device, so that a reload without a server works (see service-worker.ts). */

const NAME = 'bildung-pages';

/** Whether the pages will open without a server. */
export async function pagesKept(): Promise<boolean> {
	if (!('serviceWorker' in navigator) || !('caches' in globalThis)) return false;
	const [worker, page] = await Promise.all([
		navigator.serviceWorker.getRegistration(),
		caches.match('/sit', { cacheName: NAME })
	]);
	return !!worker?.active && !!page;
}

/** Keep what this page was made of, and the pictures of the test; what an earlier version left goes. */
export async function keepPages(pictures: string[]): Promise<void> {
	if (!('serviceWorker' in navigator) || !('caches' in globalThis)) return;
	try {
		await preloadCode('/'); // whoever leaves without a network sees the door
		await navigator.serviceWorker.register('/service-worker.js', { type: 'module' });
		const files = performance
			.getEntriesByType('resource')
			.map((entry) => new URL(entry.name))
			.filter((url) => url.origin === location.origin && !url.pathname.startsWith('/api/'))
			.map((url) => url.pathname);
		const cache = await caches.open(NAME);
		const kept = new Set((await cache.keys()).map((request) => new URL(request.url).pathname));
		const wanted = new Set(['/sit', ...files, ...pictures]);
		const missing = [...wanted].filter((path) => path === '/sit' || !kept.has(path));
		await Promise.all(missing.map((path) => cache.add(path)));
		await Promise.all([...kept].filter((path) => !wanted.has(path)).map((path) => cache.delete(path)));
		await navigator.serviceWorker.ready;
	} catch {
		/* without a network there is nothing to keep; the check of the device says what it comes to */
	}
}

/** The pictures of a test go when its student does. */
export async function forgetPictures(): Promise<void> {
	if (!('caches' in globalThis)) return;
	const cache = await caches.open(NAME);
	for (const request of await cache.keys())
		if (new URL(request.url).pathname.startsWith('/api/')) await cache.delete(request);
}
