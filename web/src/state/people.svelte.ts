import { write } from '../api/actions';
import type { Schemas } from '../api/client';
import { Acts } from './acts.svelte';

export const ROLES = ['viewer', 'editor', 'assistant', 'supervisor', 'administrator'] as const;
type Person = Schemas['PersonOut'];
type Role = Schemas['Role'];
type Act = 'disable' | 'enable' | 'end-sessions';

/** What an administrator does about people; one thing at a time. */
export class People extends Acts {
	#link = $state.raw<Schemas['PasswordLinkOut']>();

	constructor() {
		super('people');
	}

	/** The link that was made last: nobody shows it again. */
	get link(): Schemas['PasswordLinkOut'] | undefined {
		return this.#link;
	}

	add(name: string, role: Role, seat: string): Promise<boolean> {
		return this.do(async () => {
			this.#link = await write.addPerson(name, role, seat);
		});
	}

	offerLink(person: Person): Promise<boolean> {
		return this.do(async () => {
			this.#link = await write.offerLink(person.name);
		});
	}

	change(person: Person, role: Role, seat: string): Promise<boolean> {
		return this.do(() => write.changePerson(person.name, { role, seat, seen: person.seen }));
	}

	act(person: Person, what: Act): Promise<boolean> {
		return this.do(() => write.toPerson(person.name, what));
	}
}
