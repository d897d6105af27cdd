import * as z from 'zod';
import { HouseRules } from '../vet/house-rules';
import { VetGroup } from '../vet/vet';
import { Id } from './sets';

/** What would go wrong with a set. */
export const VetView = z.object({ groups: z.array(VetGroup) }).meta({ id: 'VetView' });
export type VetView = z.infer<typeof VetView>;

/** House rules as they are kept. */
export const StoredHouseRules = z.object({ id: Id, rules: HouseRules }).meta({ id: 'StoredHouseRules' });
export type StoredHouseRules = z.infer<typeof StoredHouseRules>;
