import { mount } from 'svelte';
import './app.css';
import App from './App.svelte';

const target = document.getElementById('console');
if (target === null) throw new Error('the page has no place for the console');
mount(App, { target });
