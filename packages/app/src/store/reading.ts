// A module of its own, so that readers of files are loaded when a file is read and not with the page.
export { portsOfName, readProjectFile } from '@ditch/core/formats';
