<script lang="ts">
	import { api, done, faultOf, type FaultBody } from '../api/calls';
	import Dialog from './Dialog.svelte';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	/** Saves an installation's handover sheet as a file: in which form, for whom, with or without passwords, open or sealed. */
	let { id, saved }: { id: string; saved: (revealed: boolean) => Promise<void> } = $props();
	let dialog: Dialog | undefined = $state();
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);
	let form = $state<keyof typeof FORMS>('html');
	let customer = $state(false);
	let reveal = $state(false);
	let passphrase = $state('');
	let key = $state('');

	const FORMS = {
		html: { name: 'Web page', end: '.html' },
		pdf: { name: 'PDF, for paper', end: '.pdf' },
		markdown: { name: 'Markdown, a plain text', end: '.md' },
		json: { name: 'JSON, for programs', end: '.json' },
		logins: { name: 'Logins (CSV), for a password manager', end: '.csv' },
		bookmarks: { name: 'Bookmarks, for a browser', end: '.bookmarks.html' },
	};
	const sealed = $derived(passphrase !== '' || key.trim() !== '');
	const name = $derived(`handover-${id}${FORMS[form].end}${sealed ? '.asc' : ''}`);

	export function ask(): void {
		[fault, passphrase, key, reveal] = [null, '', '', false];
		dialog?.open();
	}

	async function save(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		busy = true;
		fault = null;
		try {
			const content = await done(
				api.POST('/api/v1/installations/{number}/sheet', {
					params: { path: { number: id } },
					body: {
						reveal,
						form,
						customer,
						passphrase: passphrase || null,
						keys: key.trim() ? [key.trim()] : [],
					},
					parseAs: 'blob',
				}),
			);
			const link = document.createElement('a');
			link.href = URL.createObjectURL(content as Blob);
			link.download = name;
			link.click();
			URL.revokeObjectURL(link.href);
			dialog?.close();
			await saved(reveal);
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<Dialog bind:this={dialog} title="Save the handover sheet">
	<form id="save-sheet" onsubmit={(event) => void save(event)}>
		<label class="form" for="save-form">As</label>
		<select id="save-form" class="field" bind:value={form}>
			{#each Object.entries(FORMS) as [value, one] (value)}<option {value}>{one.name}</option>{/each}
		</select>
		<label class="box"
			><input type="checkbox" bind:checked={customer} /> For the customer: without the hosting login, the panel
			and the folders</label
		>
		<label class="box"
			><input type="checkbox" bind:checked={reveal} /> With the passwords in it; that is recorded</label
		>
		<details>
			<summary>Seal it</summary>
			<Field
				label="Passphrase"
				type="password"
				autocomplete="new-password"
				minlength={12}
				bind:value={passphrase}
				hint="Whoever has it opens the sheet; 12 characters or more. Tell it by another way than the file's."
			/>
			<label class="form" for="save-key">OpenPGP public key of whoever it is for</label>
			<textarea
				id="save-key"
				class="field code"
				rows="4"
				bind:value={key}
				placeholder="-----BEGIN PGP PUBLIC KEY BLOCK-----"></textarea>
		</details>
		<p class="small quiet">
			{name}{#if reveal && !sealed}: whoever has this file can read the passwords{/if}
		</p>
	</form>
	{#if fault}<Fault {fault} />{/if}
	{#snippet ways()}
		<button class="btn btn-lesser" type="button" onclick={() => dialog?.close()}>Leave it</button>
		<button
			class="btn btn-act"
			type="submit"
			form="save-sheet"
			disabled={busy || (form === 'logins' && !reveal)}
			title={form === 'logins' && !reveal ? 'A file of logins is nothing without its passwords' : undefined}
			>{busy ? 'One moment…' : 'Save it'}</button
		>
	{/snippet}
</Dialog>

<style>
	.form {
		display: block;
		font-weight: 600;
		margin: 0.4rem 0 0.2rem;
	}
	.box {
		display: block;
		margin-top: 0.55rem;
	}
	details {
		margin-top: 0.7rem;
	}
	summary {
		cursor: pointer;
		font-weight: 600;
	}
	textarea,
	select {
		width: 100%;
	}
</style>
