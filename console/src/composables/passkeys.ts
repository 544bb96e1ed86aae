import { api, data, type Schemas } from '../api/client'

/** Passkeys belong to names: a browser takes none at a number, but for localhost. */
export const passkeysHere = () =>
  typeof PublicKeyCredential !== 'undefined' &&
  'parseRequestOptionsFromJSON' in PublicKeyCredential &&
  !/^[\d.]+$|:/.test(location.hostname)

type Answer = Schemas['NewPasskey']['credential']
const given = (c: Credential | null) => {
  if (!c) throw new Error('The browser gave no passkey.')
  return (c as PublicKeyCredential).toJSON() as unknown as Answer
}

/** Makes a passkey for the person who is signed in. */
export async function makePasskey(name: string) {
  const asked = (await data(api.POST('/session/passkeys/options'))) as {
    publicKey: PublicKeyCredentialCreationOptionsJSON
  }
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(asked.publicKey)
  const credential = given(await navigator.credentials.create({ publicKey }))
  return data(api.POST('/session/passkeys', { body: { name, credential } }))
}

/** Signs in with a passkey that the browser lets choose. */
export async function signInWithPasskey() {
  const asked = (await data(api.POST('/session/passkey/options'))) as {
    publicKey: PublicKeyCredentialRequestOptionsJSON
  }
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(asked.publicKey)
  const credential = given(await navigator.credentials.get({ publicKey }))
  return data(api.POST('/session/passkey', { body: { credential } }))
}
