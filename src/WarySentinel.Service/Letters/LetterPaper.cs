using MimeKit;
using MimeKit.Cryptography;
using WarySentinel.Core.Letters;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>Writes a letter out as mail (RFC 5322, RFC 2045): plain text, HTML beside it, signed by DKIM (RFC 6376) where there is a key.</summary>
public sealed class LetterPaper(
    Envelopes envelopes, Unsubscribing unsubscribing, PolicyHolder policies, ServiceOptions options, TimeProvider time)
{
    /// <summary>The header with a letter's name, which reports bring back.</summary>
    public const string NameHeader = "X-Wary-Letter";

    private static readonly HeaderId[] Signed =
    [
        HeaderId.From, HeaderId.To, HeaderId.Subject, HeaderId.Date, HeaderId.MessageId, HeaderId.MimeVersion, HeaderId.ContentType,
        HeaderId.ListUnsubscribe, HeaderId.ListUnsubscribePost,
    ];

    private readonly Lazy<DkimSigner?> signer = new(() => options.DkimKey.Length == 0 ? null
        : new DkimSigner(options.DkimKey, Domain(options), options.DkimSelector, DkimSignatureAlgorithm.RsaSha256)
        {
            HeaderCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed, BodyCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed,
        });

    /// <summary>The domain that letters are from.</summary>
    public static string Domain(ServiceOptions options) => MailboxAddress.Parse(options.MailFrom).Domain;

    /// <summary>The letter as mail. Throws <see cref="System.Security.Cryptography.CryptographicException"/> where its text cannot be opened.</summary>
    public MimeMessage Write(WaitingMessage message)
    {
        var (text, html) = envelopes.Open(message.Body);
        return Write(message.To, message.Subject, text, html, $"{message.Id:N}", LetterKinds.Find(message.Kind));
    }

    /// <summary>The letter as mail.</summary>
    public MimeMessage Write(string to, string subject, string text, string? html, string id, LetterKind? kind)
    {
        var mail = new MimeMessage { Subject = subject, Date = time.GetUtcNow(), MessageId = $"{id}@{new Uri(options.SiteUrl).Host}" };
        var from = MailboxAddress.Parse(options.MailFrom);
        mail.From.Add(new MailboxAddress(policies.Current.Settings.SiteName, from.Address));
        mail.To.Add(MailboxAddress.Parse(to));
        mail.Headers.Add("Auto-Submitted", "auto-generated");
        mail.Headers.Add(NameHeader, id);
        if (kind?.IsNecessary == false)
        {
            // RFC 2369 §3.2; RFC 8058 §3.1, which asks for a signature over both (§4) and for https.
            mail.Headers.Add(HeaderId.ListUnsubscribe, $"<{unsubscribing.PageOf(to)}>, <mailto:{from.Address}?subject=unsubscribe>");
            mail.Headers.Add(HeaderId.ListUnsubscribePost, Unsubscribing.OneClick);
        }

        mail.Body = html is null ? new TextPart("plain") { Text = text }
            : new MultipartAlternative { new TextPart("plain") { Text = text }, new TextPart("html") { Text = html } };
        if (signer.Value is { } key)
        {
            mail.Prepare(EncodingConstraint.SevenBit);
            key.Sign(mail, [.. Signed.Where(mail.Headers.Contains)]);
        }

        return mail;
    }
}
