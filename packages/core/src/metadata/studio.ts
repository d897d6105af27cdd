import * as z from 'zod';
import type { MasterFacts, Rights } from '../facts/facts';
import { line } from '../preset/fields';
import { CONTACT_NAMES, type ContactField } from './groups';

/** The studio's own details: what fills rights fields that a master leaves empty. Empty text means: nothing to fill in. */
export const StudioDetails = z.strictObject({
  creator: line(200).default('').meta({ title: 'Creator' }),
  copyrightHolder: line(200).default('').meta({ title: 'Copyright holder', description: 'Name behind the © and the year of capture' }),
  credit: line(200).default('').meta({ title: 'Credit' }),
  terms: line(1000).default('').meta({ title: 'Terms of use' }),
  email: line(200).default('').meta({ title: 'E-mail' }),
  website: line(500).default('').meta({ title: 'Website' }),
  jobTitle: line(200).default('').meta({ title: 'Job title' }),
  phone: line(200).default('').meta({ title: 'Telephone' }),
  address: line(300).default('').meta({ title: 'Street' }),
  city: line(200).default('').meta({ title: 'City' }),
  region: line(200).default('').meta({ title: 'State or province' }),
  postalCode: line(60).default('').meta({ title: 'Postal code' }),
  country: line(200).default('').meta({ title: 'Country' }),
  webStatement: line(500).default('').meta({ title: 'Page on the rights', description: 'Web address of a page on the rights' }),
});
export type StudioDetails = z.infer<typeof StudioDetails>;

/** Whether there is anything to fill in. */
export const hasDetails = (studio: StudioDetails): boolean => Object.values(studio).some((value) => value !== '');

/**
 * The rights of a master with its gaps filled from the studio's details. What the file says is never overwritten.
 * @param facts the master's facts; the year of the copyright notice is that of its capture
 */
export function fillRights(facts: Pick<MasterFacts, 'rights' | 'captured'>, studio: StudioDetails): Rights {
  const { rights, captured } = facts;
  const year = captured ? `${captured.slice(0, 4)} ` : '';
  const notice = studio.copyrightHolder && `© ${year}${studio.copyrightHolder}`;
  return {
    creator: rights.creator ?? orNull(studio.creator),
    copyright: rights.copyright ?? orNull(notice),
    credit: rights.credit ?? orNull(studio.credit),
    terms: rights.terms ?? orNull(studio.terms),
    email: rights.email ?? orNull(studio.email),
    website: rights.website ?? orNull(studio.website),
    webStatement: rights.webStatement ?? orNull(studio.webStatement),
  };
}

/**
 * What of the creator's contact is filled in: what the studio says and the file does not. Of a file that was read by an earlier release it is
 * not known what it says, so that nothing is.
 */
export function fillContact({ contact }: Pick<MasterFacts, 'contact'>, studio: StudioDetails): [ContactField, string][] {
  if (contact === null) return [];
  return CONTACT_NAMES.flatMap((field): [ContactField, string][] => (studio[field] && !contact[field] ? [[field, studio[field]]] : []));
}

const orNull = (text: string): string | null => text || null;
