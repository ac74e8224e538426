import { mount } from 'svelte';
import './app/features';
import App from './app/App.svelte';
import './app/app.css';

export default mount(App, { target: document.getElementById('app')! });
