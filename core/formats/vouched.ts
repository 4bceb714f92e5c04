/**
 * Whether a mail server vouches for the sender of a mail: what stands in an Authentication-Results field (RFC 8601) that
 * the named server wrote. A pass of DMARC for the sender's domain counts, or of SPF or DKIM for that very domain. Fields of
 * other servers say nothing: anybody can write them.
 */
export function isVouchedFor(fields: string[], server: string, sender: string): boolean {
  const domain = sender.slice(sender.lastIndexOf('@') + 1).toLowerCase();
  if (!domain || !sender.includes('@')) return false;
  return fields.some((field) => {
    // Comments in round brackets mean nothing (RFC 5322, 3.2.2).
    const [id = '', ...results] = field.replace(/\([^()]*\)/g, ' ').split(';');
    if (id.trim().split(/\s+/)[0]?.toLowerCase() !== server.toLowerCase()) return false;
    return results.some((result) => {
      const method = /^\s*(dmarc|spf|dkim)(?:\/\d+)?\s*=\s*pass\b/i.exec(result)?.[1]?.toLowerCase();
      const property = (name: string) => new RegExp(`\\b${name}\\s*=\\s*"?([^\\s";]+)`, 'i').exec(result)?.[1]?.toLowerCase().replace(/^.*@/, '');
      if (method === 'dmarc') return property('header\\.from') === domain;
      if (method === 'spf') return property('smtp\\.mailfrom') === domain;
      return method === 'dkim' && property('header\\.d') === domain;
    });
  });
}
