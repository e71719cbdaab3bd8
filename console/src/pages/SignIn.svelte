<script lang="ts">
	import { faultOf, type FaultBody } from '../api/calls';
	import Fault from '../parts/Fault.svelte';
	import Field from '../parts/Field.svelte';
	import { session } from '../state/session.svelte';

	let { again = false }: { again?: boolean } = $props();
	let name = $state('');
	let password = $state('');
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);
	let first: HTMLInputElement | undefined = $state();
	$effect(() => first?.focus());

	async function send(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		busy = true;
		fault = null;
		try {
			await session.signIn(name.trim(), password);
			password = '';
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<svelte:head><title>Sign in · High Shelf</title></svelte:head>
<main class="door">
	<img src="/shelf.svg" alt="" width="44" height="44" />
	<h1>{again ? 'You were signed out' : 'High Shelf'}</h1>
	{#if session.first}
		<div class="card-paper rows">
			<h2>Nobody can sign in yet</h2>
			<p>
				The first operator is made with a link that works once. <code>highshelf serve</code> printed it when
				it started, in the line that begins with <code>console</code>. Too late, or lost? Start the service
				anew: it prints a new one.
			</p>
		</div>
	{:else}
		{#if again}<p class="quiet">
				The session ended. The page is still there behind this one, as you left it.
			</p>{/if}
		<form class="card-paper rows" onsubmit={send}>
			<Field
				label="Name"
				bind:value={name}
				bind:input={first}
				required
				autocomplete="username"
				autocapitalize="none"
				spellcheck="false"
			/>
			<Field
				label="Password"
				bind:value={password}
				required
				type="password"
				autocomplete="current-password"
			/>
			{#if fault}<Fault {fault} />{/if}
			<button class="btn btn-act" type="submit" disabled={busy}>{busy ? 'Signing in…' : 'Sign in'}</button>
		</form>
	{/if}
</main>

<style>
	.door {
		max-width: 25rem;
		margin: 13vh auto 3rem;
		padding: 0 1rem;
		display: grid;
		gap: 0.8rem;
	}
</style>
