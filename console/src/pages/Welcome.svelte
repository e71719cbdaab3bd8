<script lang="ts">
	import { onMount } from 'svelte';
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import Fault from '../parts/Fault.svelte';
	import Field from '../parts/Field.svelte';
	import { navigate } from '../router';
	import { session } from '../state/session.svelte';

	const SHORTEST = 12;
	// After the # it never leaves the browser by itself, and it is out of the address before anything else happens.
	let code = location.hash.slice(1);
	let invited = $state.raw<Schemas['Invited'] | null>(null);
	let name = $state('');
	let password = $state('');
	let once = $state('');
	let tried = $state(false);
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);
	let refused = $state.raw<FaultBody | null>(null);

	const wrongName = $derived(
		tried && !invited?.operator && !/^[a-z][a-z0-9.-]{1,29}$/.test(name.trim())
			? 'Small letters, digits, dots and hyphens; two at least, beginning with a letter.'
			: '',
	);
	const wrongPassword = $derived(
		tried && password.length < SHORTEST
			? `${SHORTEST} characters at least; these are ${password.length}.`
			: '',
	);
	const wrongOnce = $derived(tried && !wrongPassword && once !== password ? 'The two are not the same.' : '');

	onMount(() => void look());

	/** Another link pasted into the same window is a link of its own. */
	function another(): void {
		if (location.hash.length < 2) return;
		code = location.hash.slice(1);
		refused = null;
		invited = null;
		void look();
	}

	async function look(): Promise<void> {
		history.replaceState(history.state, '', '/welcome');
		if (!code) {
			refused = {
				code: 'sign-in',
				message: 'This address has no code.',
				hint: 'Open the whole link, with everything after the #.',
				retryable: false,
				context: {},
			};
			return;
		}
		try {
			invited = await done(api.POST('/api/v1/session/invited', { body: { code } }));
			name = invited.operator;
		} catch (reason) {
			refused = faultOf(reason);
		}
	}

	async function send(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		tried = true;
		fault = null;
		if (wrongName || wrongPassword || wrongOnce) {
			const form = event.currentTarget as HTMLFormElement;
			requestAnimationFrame(() => form.querySelector<HTMLElement>('[aria-invalid=true]')?.focus());
			return;
		}
		busy = true;
		try {
			await session.accept(code, name.trim(), password);
			await navigate('/', { replace: true });
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<svelte:window onhashchange={another} />
<svelte:head><title>Welcome · High Shelf</title></svelte:head>
<main class="door">
	<img src="/shelf.svg" alt="" width="44" height="44" />
	<h1>{invited?.operator ? `Welcome, ${invited.operator}` : 'Welcome'}</h1>
	{#if refused}
		<Fault fault={refused} />
		<p><a href="/">To the sign-in</a></p>
	{:else if invited}
		<p class="quiet">
			{#if invited.operator}
				Choose the password you sign in with. Whoever else was signed in by this name is signed out.
			{:else}
				You are the first operator. Choose the name and the password you sign in with; others are invited
				later.
			{/if}
		</p>
		<form class="card-paper rows" onsubmit={send} novalidate>
			<Field
				label="Name"
				bind:value={name}
				required
				readonly={invited.operator !== ''}
				autocomplete="username"
				autocapitalize="none"
				spellcheck="false"
				wrong={wrongName}
				hint={invited.operator ? '' : 'It stands beside what you do, such as secrets you look at.'}
			/>
			<Field
				label="Password"
				bind:value={password}
				required
				type="password"
				autocomplete="new-password"
				wrong={wrongPassword}
				hint="12 characters or more. Four or five random words are easy to remember."
			/>
			<Field
				label="The same password again"
				bind:value={once}
				required
				type="password"
				autocomplete="new-password"
				wrong={wrongOnce}
			/>
			{#if fault}<Fault {fault} />{/if}
			<button class="btn btn-act" type="submit" disabled={busy}>{busy ? 'One moment…' : 'Go in'}</button>
		</form>
	{:else}
		<p class="quiet">Looking at the link…</p>
	{/if}
</main>

<style>
	.door {
		max-width: 27rem;
		margin: 11vh auto 3rem;
		padding: 0 1rem;
		display: grid;
		gap: 0.8rem;
	}
</style>
