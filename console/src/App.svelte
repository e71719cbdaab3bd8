<script lang="ts">
	import { Router } from 'sv-router';
	import { onMount } from 'svelte';
	import Fault from './parts/Fault.svelte';
	import Frame from './parts/Frame.svelte';
	import SignIn from './pages/SignIn.svelte';
	import Welcome from './pages/Welcome.svelte';
	import './router';
	import { route } from './router';
	import { session } from './state/session.svelte';

	const welcome = $derived(route.pathname.startsWith('/welcome'));
	// The page stays as it is under the sign-in when a session ends: what was typed is not lost.
	let opened = $state(false);
	$effect(() => {
		if (session.operator) opened = true;
		else if (!session.ended) opened = false;
	});

	onMount(() => {
		void session.load();
		const again = setInterval(() => {
			if (!session.known) void session.load();
			else clearInterval(again);
		}, 2000);
		return () => clearInterval(again);
	});
</script>

{#if !session.known}
	<main class="alone">
		{#if session.fault}<Fault fault={session.fault} />{:else}<p class="quiet">Opening the console…</p>{/if}
	</main>
{:else if welcome}
	<Welcome />
{:else if !opened}
	<SignIn />
{:else}
	{#if session.ended}
		<div class="over"><SignIn again /></div>
	{/if}
	<div inert={session.ended}>
		<Frame><Router /></Frame>
	</div>
{/if}

<style>
	.alone {
		max-width: 30rem;
		margin: 18vh auto 0;
		padding: 0 1rem;
	}
	.over {
		position: fixed;
		inset: 0;
		z-index: 20;
		overflow: auto;
		background: color-mix(in oklab, var(--sunk) 86%, transparent);
	}
</style>
