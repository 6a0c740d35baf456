import { readAnew } from '../../api/anew';

type News = { topic: string; id: string };

const GATHER_MS = 50; // news of one survey come in a handful: read anew once for all of them
const SLOWEST_MS = 5000;
const QUICK_MS = 300; // what is read anew so fast is read again soon
const AGAIN_MS = 3000;

/** News from the server: a topic and an id. What is shown of it is read anew through the typed API. */
class Live {
	#source: EventSource | undefined;
	#refused: () => Promise<unknown> = () => Promise.resolve();
	#stopped = false;
	#waiting = new Map<string, News>();
	#timer: ReturnType<typeof setTimeout> | undefined;
	#connected = $state(true);

	get connected(): boolean {
		return this.#connected;
	}

	/** `refused` is asked once the server refuses the stream: whoever was signed out is not asked for more. */
	start(refused: () => Promise<unknown> = () => Promise.resolve()): () => void {
		this.#refused = refused;
		this.#stopped = false;
		this.#open();
		return () => {
			this.#stopped = true;
			this.#source?.close();
			clearTimeout(this.#timer);
		};
	}

	#open(): void {
		const source = new EventSource('/api/v1/events');
		source.onopen = () => (this.#connected = true);
		source.onmessage = (event: MessageEvent<string>) => this.#hear(JSON.parse(event.data) as News);
		source.onerror = () => {
			this.#connected = false;
			// A browser tries again by itself unless the answer was an error.
			if (source.readyState === EventSource.CLOSED) setTimeout(() => void this.#again(), AGAIN_MS);
		};
		this.#source = source;
	}

	async #again(): Promise<void> {
		await this.#refused();
		if (!this.#stopped) this.#open();
	}

	#hear(news: News): void {
		this.#waiting.set(`${news.topic}/${news.id}`, news);
		this.#timer ??= setTimeout(() => void this.#tell(), GATHER_MS);
	}

	/** Reading much anew may take a fifth of the time at most: in a large house news are gathered for longer. */
	async #tell(): Promise<void> {
		const begun = performance.now();
		// An editor hears of their own seat's part in a rollout, nobody else's.
		const topics = new Set(
			[...this.#waiting.values()].map((news) => (news.topic === 'planned' ? 'rollout' : news.topic))
		);
		this.#waiting.clear();
		const keys = topics.has('everything') ? [[]] : [...topics, 'ledger'].map((topic) => [topic]);
		await Promise.allSettled(keys.map(readAnew));
		const spent = performance.now() - begun;
		const pause = spent < QUICK_MS ? Math.max(GATHER_MS, spent) : Math.min(SLOWEST_MS, 4 * spent);
		this.#timer = this.#waiting.size ? setTimeout(() => void this.#tell(), pause) : undefined;
	}
}

export const live = new Live();
