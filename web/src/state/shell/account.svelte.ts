import { write } from '../../api/actions';
import type { Schemas } from '../../api/client';
import { Acts } from '../acts.svelte';

export const SCOPES: Record<Schemas['Scope'], string> = {
	read: 'read',
	survey: 'read, and upload surveys',
	plan: 'read, and plan',
	all: 'all my permissions'
};

/** What people do about their own account. */
export class Account extends Acts {
	#said = $state('');
	#token = $state.raw<Schemas['TokenOut']>();

	constructor() {
		super('account');
	}

	get said(): string {
		return this.#said;
	}

	/** The token that was made last, with its text: nobody shows it again. */
	get token(): Schemas['TokenOut'] | undefined {
		return this.#token;
	}

	async changePassword(old: string, fresh: string): Promise<boolean> {
		this.#said = '';
		const done = await this.do(() => write.changePassword(old, fresh));
		this.#said = done ? 'Changed.' : '';
		return done;
	}

	makeToken(name: string, scope: Schemas['Scope'], days: number): Promise<boolean> {
		return this.do(async () => {
			this.#token = await write.makeToken(name, scope, days);
		});
	}

	withdraw(number: number): Promise<boolean> {
		return this.do(async () => {
			await write.withdrawToken(number);
			this.#token = undefined;
		});
	}
}
