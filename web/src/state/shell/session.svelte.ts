import { write } from '../../api/actions';
import { api, data, type Schemas } from '../../api/client';
import { queryClient } from '../../api/queries';
import { setTimeZone } from '../../model/words/zone';

type Who = Schemas['SessionOut'];

/** Who is signed in, and what they may do. */
class Session {
	#who = $state<Who>();
	#failed = $state('');

	readonly known = $derived(this.#who !== undefined);
	readonly name = $derived(this.#who?.name ?? null);
	readonly role = $derived(this.#who?.role ?? null);
	readonly seat = $derived(this.#who?.seat ?? null);

	get failed(): string {
		return this.#failed;
	}

	may(permission: string): boolean {
		return this.#who?.may.includes(permission) ?? false;
	}

	#set(who: Who): void {
		setTimeZone(who.time_zone);
		this.#who = who;
	}

	async load(): Promise<void> {
		try {
			this.#set(await data(api.GET('/api/v1/session')));
			this.#failed = '';
		} catch (error) {
			this.#failed = (error as Error).message;
		}
	}

	/** Whether one is still signed in; a server that does not answer changes nothing. */
	async look(): Promise<void> {
		const who = await data(api.GET('/api/v1/session')).catch(() => undefined);
		if (who && !who.name) queryClient.clear();
		if (who) this.#set(who);
	}

	async signIn(name: string, password: string): Promise<void> {
		this.#set(await write.signIn(name, password));
	}

	async signOut(): Promise<void> {
		await write.signOut();
		queryClient.clear();
		await this.load();
	}
}

export const session = new Session();
