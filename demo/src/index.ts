export { MASTERS, SET_TITLE, STUDIO } from './scenario';
