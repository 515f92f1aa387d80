/**
 * What a shop or an advertiser adds to its own addresses: campaign and session parameters, and the click IDs of
 * advertising, which would credit somebody else; *common practice*.
 */
export const campaignParameter =
  /^(?:utm_\w+|gclid|dclid|gbraid|wbraid|fbclid|msclkid|ttclid|twclid|yclid|mc_[ce]id|_ga|_gl|igshid|session(?:_?id)?|jsessionid|phpsessid)$/i;
