using System.Text.Json;
using WarySentinel.Core.Access;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Storage.Access;

internal sealed class GateRow
{
    /// <summary>In place of a presence: as the site's settings say.</summary>
    private const int BySite = 2;

    public required string Key { get; set; }

    public required string Title { get; set; }

    public string[] Covers { get; set; } = [];

    public bool ItemOnly { get; set; }

    public bool IsExemption { get; set; }

    public required string Audience { get; set; }

    public int Acts { get; set; }

    public int Presence { get; set; }

    public int Answer { get; set; }

    public string? Message { get; set; }

    public string? RedirectTo { get; set; }

    public DateTimeOffset? From { get; set; }

    public DateTimeOffset? Until { get; set; }

    public bool Enabled { get; set; }

    public long UnlockSeconds { get; set; }

    public int Version { get; set; }

    /// <summary>Prompt, link and rotation, as JSON; null where it has none of them.</summary>
    public string? More { get; set; }

    public static GateRow Of(Gate gate) => new()
    {
        Key = gate.Key,
        Title = gate.Title,
        Covers = [.. gate.Covers.Select(c => c.ToString())],
        ItemOnly = gate.ItemOnly,
        IsExemption = gate.IsExemption,
        Audience = gate.Audience.ToString(),
        Acts = (int)gate.Acts,
        Presence = gate.PresenceBySite ? BySite : (int)gate.Presence,
        Answer = (int)gate.Answer,
        Message = gate.Message,
        RedirectTo = gate.RedirectTo,
        From = gate.From,
        Until = gate.Until,
        Enabled = gate.Enabled,
        UnlockSeconds = (long)gate.UnlockFor.TotalSeconds,
        Version = gate.Version,
        More = gate.Prompt is null && gate.Link is null && gate.Rotation is null ? null : JsonSerializer.Serialize(new MoreOfGate(gate.Prompt, gate.Link, gate.Rotation)),
    };

    public Gate ToGate()
    {
        var more = More is null ? null : JsonSerializer.Deserialize<MoreOfGate>(More);
        return Plain() with { Prompt = more?.Prompt, Link = more?.Link, Rotation = more?.Rotation };
    }

    private Gate Plain() => new()
    {
        Key = Key,
        Title = Title,
        Covers = Array.ConvertAll(Covers, Selector.Parse),
        ItemOnly = ItemOnly,
        IsExemption = IsExemption,
        Audience = AudienceParser.Parse(Audience).Value,
        Acts = (Acts)Acts,
        Presence = Presence == BySite ? Core.Access.Presence.Listed : (Presence)Presence,
        PresenceBySite = Presence == BySite,
        Answer = (Answer)Answer,
        Message = Message,
        RedirectTo = RedirectTo,
        From = From,
        Until = Until,
        Enabled = Enabled,
        UnlockFor = TimeSpan.FromSeconds(UnlockSeconds),
        Version = Version,
    };
}

internal sealed record MoreOfGate(PromptWords? Prompt, SiteLink? Link, Rotation? Rotation);

internal sealed class RedirectRow
{
    public required string Key { get; set; }

    public int On { get; set; }

    public required string Audience { get; set; }

    public required string To { get; set; }

    public int Position { get; set; }

    public int Version { get; set; }

    public static RedirectRow Of(Redirect redirect) => new()
    {
        Key = redirect.Key, On = (int)redirect.On, Audience = redirect.Audience.ToString(), To = redirect.To, Position = redirect.Position, Version = redirect.Version,
    };

    public Redirect ToRedirect() => new(Key, (RedirectOn)On, AudienceParser.Parse(Audience).Value, To, Position, Version);
}

/// <summary>A network that a shared password was used from; only a keyed digest of it.</summary>
internal sealed class PasswordNetworkRow
{
    public Guid PasswordId { get; set; }

    public required string Network { get; set; }

    public DateTimeOffset FirstAt { get; set; }
}

/// <summary>What a sweep found.</summary>
internal sealed class SweepRow
{
    public Guid Id { get; set; }

    public DateTimeOffset StartedAt { get; set; }

    public DateTimeOffset EndedAt { get; set; }

    public required string By { get; set; }

    public int Leaks { get; set; }

    public required string Report { get; set; }
}

internal sealed class StandingRow
{
    public int Kind { get; set; }

    public required string Key { get; set; }

    public required string Title { get; set; }

    public int Version { get; set; }

    public static StandingRow Of(Standing standing) =>
        new() { Kind = (int)standing.Kind, Key = standing.Key, Title = standing.Title, Version = standing.Version };

    public Standing ToStanding() => new((FactKind)Kind, Key, Title, Version);
}

internal sealed class SharedPasswordRow
{
    public Guid Id { get; set; }

    public required string Gate { get; set; }

    public required string Label { get; set; }

    public required string Digest { get; set; }

    public required string Hash { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public DateTimeOffset? From { get; set; }

    public DateTimeOffset? Until { get; set; }

    public DateTimeOffset? WithdrawnAt { get; set; }

    public int Uses { get; set; }

    public DateTimeOffset? LastUsedAt { get; set; }

    public int? MostUses { get; set; }

    public string? Asked { get; set; }

    public Guid? Replaces { get; set; }

    public static SharedPasswordRow Of(SharedPassword password) => new()
    {
        Id = password.Id,
        Gate = password.Gate,
        Label = password.Label,
        Digest = password.Digest,
        Hash = password.Hash,
        CreatedAt = password.CreatedAt,
        From = password.From,
        Until = password.Until,
        WithdrawnAt = password.WithdrawnAt,
        Uses = password.Uses,
        LastUsedAt = password.LastUsedAt,
        MostUses = password.MostUses,
        Asked = password.Asked?.ToString(),
        Replaces = password.Replaces,
    };

    public SharedPassword ToPassword() => new(
        Id, Gate, Label, Digest, Hash, CreatedAt, From, Until, WithdrawnAt, Uses, LastUsedAt, MostUses, Asked is null ? null : AudienceParser.Parse(Asked).Value, Replaces);
}
