using WarySentinel.Contract.Passwords;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;

namespace WarySentinel.Service.Passwords;

/// <summary>Passes, as they are told.</summary>
public static class PassWire
{
    /// <summary>A pass; its password and a text ready to send only where it was just drawn.</summary>
    public static PassView ToWire(this Pass pass, Policy policy, DateTimeOffset now, int networks = 0, MadePass? made = null)
    {
        var dates = new SiteDates(policy.Settings.TimeZone);
        return new PassView(
            pass.Id, pass.Kind, policy.FindDefinition(FactKind.Pass, pass.Kind)?.Title ?? pass.Kind, pass.Name, pass.Holder, pass.Email, pass.CreatedAt,
            pass.From, pass.Until, pass.WithdrawnAt, pass.StandingAt(now), pass.Uses, pass.MostUses, networks, pass.MostNetworks, pass.LastUsedAt,
            pass.OldUntil > now ? pass.OldUntil : null, pass.Order, pass.Version, made?.Password.Reveal(), made is null ? null : Passphrase.Bits,
            made?.Text.Reveal(), pass.From is { } from ? dates.Type(from, false) : null, pass.Until is { } until ? dates.Type(until, true) : null);
    }

    /// <summary>What was sent, for the rules to read.</summary>
    public static PassTerms ToCore(this PassDraft draft) => new()
    {
        Kind = draft.Kind, Holder = draft.Holder, Name = draft.Name, Email = draft.Email, From = draft.From, Until = draft.Until, MostUses = draft.MostUses,
        MostNetworks = draft.MostNetworks,
    };
}
