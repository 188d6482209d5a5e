using WarySentinel.Contract.Passwords;
using WarySentinel.Core.Access;
using WarySentinel.Core.Passwords;

namespace WarySentinel.Service.Passwords;

/// <summary>Shared passwords, as they are told.</summary>
public static class SharedPasswordWire
{
    /// <summary>A shared password; itself and its text ready to send only where it was just made.</summary>
    public static SharedPasswordView ToWire(this SharedPassword password, DateTimeOffset now, int networks = 0, MadePassword? made = null) => new(
        password.Id, password.Gate, password.Label, password.CreatedAt, password.From, password.Until, password.WithdrawnAt, password.IsInForce(now),
        password.Uses, password.MostUses, password.LastUsedAt, networks, (password.Asked ?? Audience.Anyone).ToString()!, password.Replaces,
        made?.Secret?.Reveal(), made?.Text?.Reveal(), password.Sealed is not null);
}
