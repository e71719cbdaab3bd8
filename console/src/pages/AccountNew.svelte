<script lang="ts">
	import { Fault, api, done } from '../api/calls';
	import AccountForm, { type Given } from '../parts/AccountForm.svelte';
	import Head from '../parts/Head.svelte';
	import Letter from '../parts/Letter.svelte';
	import { navigate, p } from '../router';
	import { LetterReading } from '../state/letter.svelte';

	const letter = new LetterReading();

	async function keep(given: Given): Promise<void> {
		if (letter.open.length) {
			const message = 'Some of what was found in the letter is not sure.';
			throw new Fault(
				{
					code: 'input',
					message,
					hint: 'Look at each of the values named above, and tick it.',
					retryable: false,
					context: {},
				},
				422,
			);
		}
		await done(api.POST('/api/v1/accounts', { body: { ...given, panel_primer: '' } }));
		await navigate('/accounts/:name', { params: { name: given.name }, search: { check: 'yes' } });
	}
</script>

<Head title="Add an account" above="Accounts" up={p('/accounts')}>
	<p class="quiet">
		All of this stands in the letter a host sends when it opens the account. It is checked in the next step;
		nothing is changed there.
	</p>
</Head>
<Letter {letter} />
{#key letter.turn}
	<AccountForm start={letter.read?.account} word="Keep it and look whether it works" {keep} />
{/key}
