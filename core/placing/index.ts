export type { AnchorFault } from './anchorText.ts';
export { anchorFault, anchorOf, withMerchant } from './anchorText.ts';
export type { DisclosureLength, DisclosurePlace } from './disclosure.ts';
export { disclosureOf, disclosurePlaces } from './disclosure.ts';
export type { Clip, Copied, CopyForm, PlacedPicture } from './forms.ts';
export { clipOf, copyForms, noDisclosure } from './forms.ts';
export type { PlacingLook } from './look.ts';
export { buttonStyle, contrast, linkStyle, lookProblems, usualLook } from './look.ts';
export type { OneOfSeveral, SeveralForm } from './several.ts';
export { clipOfSeveral, severalForms } from './several.ts';
export type { Counted, PlacedLink } from './snippet.ts';
export { linkAround, linkHtml, relOf } from './snippet.ts';
export { withDensity } from './pngDensity.ts';
export type { QrLook, QrModules } from './qr.ts';
export { darkRuns, qrFrame, qrProblems, qrSvg } from './qr.ts';
export type { FeedChoices, FeedReading, FeedRole } from './feedColumns.ts';
export { feedRoles, readFeedColumns } from './feedColumns.ts';
export type { FeedProduct, ReadFeedProduct } from './feedProduct.ts';
export { makeProductReader } from './feedProduct.ts';
export type { ProductIndex } from './productIndex.ts';
export { makeProductFinder, makeProductIndex } from './productIndex.ts';
export type { CardLayout, CardLook, CardProduct } from './card.ts';
export {
  cardClip,
  cardLayouts,
  cardLines,
  cardLookOf,
  cardLookProblems,
  comparisonClip,
  dayText,
  mostCompared,
  usualCards,
} from './card.ts';
export type { StalePlacement } from './stale.ts';
export { stalePlacements, withPlacement } from './stale.ts';
export type { MessageLength, PostPlace, PostWords } from './kit.ts';
export { lettersOf, messageLength, postClip, postPlaces } from './kit.ts';
export type { Placing } from './placingOf.ts';
export { placingOf } from './placingOf.ts';
export { markdownAddress, markdownText } from './markup.ts';
export type { ScriptChoices } from './scriptTag.ts';
export { privacySentence, scriptPolicy, scriptTag, usualScript } from './scriptTag.ts';
