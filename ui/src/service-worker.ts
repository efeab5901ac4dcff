/// <reference lib="webworker" />
/**
 * The student's pages without a server. What is kept is put there by the page itself (lib/sitting/pages.ts); here it is
 * only handed out when the server cannot be reached. Staff pages are never touched.
 */
const worker = self as unknown as ServiceWorkerGlobalScope;
const NAME = 'bildung-pages';
const PAGES = ['/', '/sit', '/check'];

worker.addEventListener('install', () => void worker.skipWaiting());
worker.addEventListener('activate', (event) => event.waitUntil(worker.clients.claim()));
worker.addEventListener('fetch', (event) => {
	const { request } = event;
	const url = new URL(request.url);
	if (request.method !== 'GET' || url.origin !== worker.location.origin) return;
	if (request.mode === 'navigate') {
		if (PAGES.includes(url.pathname)) event.respondWith(page(request));
	} else if (!url.pathname.startsWith('/api/') || request.destination === 'image') event.respondWith(file(request));
});

/** The server's own page; the kept one where there is none. */
async function page(request: Request): Promise<Response> {
	try {
		const response = await fetch(request);
		if (response.status < 500) return response;
		return (await kept('/sit')) ?? response;
	} catch (error) {
		const found = await kept('/sit');
		if (found) return found;
		throw error;
	}
}

/** Files carry their content in their name, so that a kept one is the right one; of all others the server is asked first. */
async function file(request: Request): Promise<Response> {
	const path = new URL(request.url).pathname;
	if (path.includes('/immutable/')) return (await kept(path)) ?? fetch(request);
	try {
		return await fetch(request);
	} catch (error) {
		const found = await kept(path);
		if (found) return found;
		throw error;
	}
}

function kept(path: string): Promise<Response | undefined> {
	return caches.match(path, { cacheName: NAME });
}
