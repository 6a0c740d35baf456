import svelte from 'eslint-plugin-svelte';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

const rooms = ['api', 'model', 'state', 'parts', 'views'];

export default ts.config(
	...ts.configs.strict,
	...svelte.configs.recommended,
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.svelte'], svelteConfig } }
	},
	// api -> model -> state -> parts -> views: what is below knows nothing of what is above.
	...rooms.slice(0, -1).map((room, at) => ({
		files: [`src/${room}/**`],
		rules: {
			'no-restricted-imports': [
				'error',
				{
					patterns: [
						{ group: rooms.slice(at + 1).map((above) => `**/${above}/**`), message: `${room} lies below.` }
					]
				}
			]
		}
	})),
	// A component asks `write` and an `Acts`: how a refusal is caught and shown stands once.
	{
		files: ['src/parts/**', 'src/views/**'],
		rules: {
			'no-restricted-syntax': [
				'error',
				{ selector: 'CatchClause', message: 'Acts catches what is refused.' },
				{
					selector: 'MemberExpression[object.name="api"][property.name=/^(POST|PUT|PATCH|DELETE)$/]',
					message: 'Every write stands in api/actions.'
				}
			]
		}
	},
	{ ignores: ['dist', 'src/api/schema.d.ts'] }
);
