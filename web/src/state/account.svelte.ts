import { api, data, type Schemas } from '../api/client';
import { queryClient } from '../api/queries';

export const SCOPES: Record<Schemas['Scope'], string> = {
	read: 'read',
	survey: 'read, and bring surveys',
	plan: 'read, and plan',
	all: 'all that I may'
};

/** What people do about their own account. */
export class Account {
	#refused = $state('');
	#said = $state('');
	#busy = $state(false);
	#token = $state.raw<Schemas['TokenOut']>();

	get refused(): string {
		return this.#refused;
	}

	get said(): string {
		return this.#said;
	}

	get busy(): boolean {
		return this.#busy;
	}

	/** The token that was made last, with its text: nobody shows it again. */
	get token(): Schemas['TokenOut'] | undefined {
		return this.#token;
	}

	async changePassword(old: string, fresh: string): Promise<boolean> {
		const done = await this.#do(async () => {
			await api.PUT('/api/v1/account/password', { body: { old, new: fresh } });
		});
		this.#said = done ? 'Changed.' : '';
		return done;
	}

	makeToken(name: string, scope: Schemas['Scope'], days: number): Promise<boolean> {
		return this.#do(async () => {
			this.#token = await data(api.POST('/api/v1/account/tokens', { body: { name, scope, days } }));
		});
	}

	withdraw(number: number): Promise<boolean> {
		return this.#do(async () => {
			await api.DELETE('/api/v1/account/tokens/{number}', { params: { path: { number } } });
			this.#token = undefined;
		});
	}

	async #do(work: () => Promise<void>): Promise<boolean> {
		[this.#busy, this.#refused, this.#said] = [true, '', ''];
		try {
			await work();
			return true;
		} catch (error) {
			this.#refused = (error as Error).message;
			return false;
		} finally {
			this.#busy = false;
			await queryClient.invalidateQueries({ queryKey: ['account'] });
		}
	}
}
