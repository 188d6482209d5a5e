using Microsoft.AspNetCore.DataProtection;
using WarySentinel.Core;
using WarySentinel.Core.Letters;

namespace WarySentinel.Service.Letters;

/// <summary>Seals and opens the texts of messages: they may hold secrets while they wait.</summary>
public sealed class Envelopes(IDataProtectionProvider protection, TimeProvider time)
{
    private readonly IDataProtector seal = protection.CreateProtector("outgoing message");

    /// <summary>A message as a change to be stored.</summary>
    public Change Queue(string to, string subject, string text) =>
        new MessageQueued(new OutgoingMessage(Guid.CreateVersion7(), to, subject, seal.Protect(text), time.GetUtcNow()));

    /// <summary>The text of a sealed message. Throws <see cref="System.Security.Cryptography.CryptographicException"/> when it cannot be opened.</summary>
    public string Open(string body) => seal.Unprotect(body);
}
