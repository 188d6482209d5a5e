using System.Text.Json;
using Microsoft.AspNetCore.DataProtection;
using WarySentinel.Core;
using WarySentinel.Core.Letters;

namespace WarySentinel.Service.Letters;

/// <summary>Seals and opens the texts of messages: they may hold secrets while they wait.</summary>
public sealed class Envelopes(IDataProtectionProvider protection, TimeProvider time)
{
    private const char Both = '\u0002';
    private readonly IDataProtector seal = protection.CreateProtector("outgoing message");

    /// <summary>A message as a change to be stored.</summary>
    public Change Queue(string to, WrittenLetter letter, LetterKind kind) => new MessageQueued(new OutgoingMessage(
        Guid.CreateVersion7(), to, letter.Subject, seal.Protect(Both + JsonSerializer.Serialize(new Parts(letter.Text, letter.Html))), time.GetUtcNow(),
        kind.Key, kind.Urgency));

    /// <summary>The text of a sealed message. Throws <see cref="System.Security.Cryptography.CryptographicException"/> when it cannot be opened.</summary>
    public (string Text, string? Html) Open(string body)
    {
        // Earlier versions sealed plain text alone.
        var opened = seal.Unprotect(body);
        return opened.Length > 0 && opened[0] == Both && JsonSerializer.Deserialize<Parts>(opened.AsSpan(1)) is { } parts ? (parts.Text, parts.Html)
            : (opened, null);
    }

    private sealed record Parts(string Text, string? Html);
}
