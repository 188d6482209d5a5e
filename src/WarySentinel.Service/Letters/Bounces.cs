using System.Text.RegularExpressions;
using MimeKit;
using WarySentinel.Core;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>What a report says of one address.</summary>
/// <param name="Address">The address.</param>
/// <param name="Status">The enhanced status code (RFC 3463).</param>
/// <param name="IsGone">Whether no letter will ever reach it; what fails for now does not count.</param>
/// <param name="Said">What the server of the address said.</param>
public sealed record Bounce(string Address, string Status, bool IsGone, string? Said);

/// <summary>Reads reports of letters that reached nobody (RFC 3464).</summary>
public static partial class Bounces
{
    private const int MostOfOneReport = 100;
    private const int LongestStatus = 12;

    /// <summary>What a report says; nothing where it is none.</summary>
    public static IReadOnlyList<Bounce> Read(MimeMessage mail)
    {
        var report = ReportIn(mail);
        if (report is null || !string.Equals(report.ReportType, "delivery-status", StringComparison.OrdinalIgnoreCase))
        {
            return [];
        }

        return
        [
            .. report.OfType<MessageDeliveryStatus>().SelectMany(s => s.StatusGroups).Select(Of).OfType<Bounce>().Take(MostOfOneReport),
        ];
    }

    /// <summary>The name of the letter of ours that a report brings back, whole or its head alone (RFC 3462 §2); null where it brings none.</summary>
    public static Guid? LetterIn(MimeMessage mail)
    {
        return ReportIn(mail)?.Select(part => part switch
        {
            MessagePart { Message.Headers: var headers } => NameIn(headers),
            TextPart { ContentType: var type } text when type.IsMimeType("text", "rfc822-headers") => NameIn(HeadersOf(text)),
            _ => null,
        }).FirstOrDefault(id => id is not null);
    }

    private static MultipartReport? ReportIn(MimeMessage mail) =>
        mail.Body as MultipartReport ?? mail.BodyParts.OfType<MultipartReport>().FirstOrDefault();

    private static Guid? NameIn(HeaderList? headers) => headers is null ? null
        // Some relays give every letter a Message-ID of their own.
        : Guid.TryParse(headers[LetterPaper.NameHeader]?.Trim(), out var name) ? name
        : Guid.TryParse(headers[HeaderId.MessageId]?.Trim().TrimStart('<').Split('@')[0], out var id) ? id : null;

    private static HeaderList? HeadersOf(TextPart text)
    {
        using var bytes = new MemoryStream();
        text.Content?.DecodeTo(bytes);
        bytes.Position = 0;
        try
        {
            return HeaderList.Load(bytes);
        }
        catch (FormatException)
        {
            return null;
        }
    }

    /// <summary>The enhanced status code in what a server said; null where there is none.</summary>
    public static string? StatusIn(string said) => Status().Match(said) is { Success: true } found ? found.Value : null;

    private static Bounce? Of(HeaderList group)
    {
        var recipient = group["Final-Recipient"] ?? group["Original-Recipient"];
        var action = group["Action"]?.Trim();
        if (recipient is null || EmailAddress.Normalise(recipient[(recipient.IndexOf(';', StringComparison.Ordinal) + 1)..]) is not { } address)
        {
            return null;
        }

        var status = group["Status"] is { Length: <= LongestStatus } said && StatusIn(said) is { } code ? code : "5.0.0";
        var isGone = string.Equals(action, "failed", StringComparison.OrdinalIgnoreCase) && status.StartsWith('5');
        var diagnostic = group["Diagnostic-Code"];
        var words = diagnostic is null ? null : new string([.. diagnostic.Where(c => !char.IsControl(c))]).Trim();
        return new Bounce(address, status, isGone, words);
    }

    [GeneratedRegex(@"\b[245]\.\d{1,3}\.\d{1,3}\b")]
    private static partial Regex Status();
}
