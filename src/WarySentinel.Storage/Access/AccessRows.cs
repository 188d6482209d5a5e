using WarySentinel.Core.Access;

namespace WarySentinel.Storage.Access;

internal sealed class GateRow
{
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

    public static GateRow Of(Gate gate) => new()
    {
        Key = gate.Key,
        Title = gate.Title,
        Covers = [.. gate.Covers.Select(c => c.ToString())],
        ItemOnly = gate.ItemOnly,
        IsExemption = gate.IsExemption,
        Audience = gate.Audience.ToString(),
        Acts = (int)gate.Acts,
        Presence = (int)gate.Presence,
        Answer = (int)gate.Answer,
        Message = gate.Message,
        RedirectTo = gate.RedirectTo,
        From = gate.From,
        Until = gate.Until,
        Enabled = gate.Enabled,
        UnlockSeconds = (long)gate.UnlockFor.TotalSeconds,
        Version = gate.Version,
    };

    public Gate ToGate() => new()
    {
        Key = Key,
        Title = Title,
        Covers = Array.ConvertAll(Covers, Selector.Parse),
        ItemOnly = ItemOnly,
        IsExemption = IsExemption,
        Audience = AudienceParser.Parse(Audience).Value,
        Acts = (Acts)Acts,
        Presence = (Presence)Presence,
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
    };

    public SharedPassword ToPassword() => new(Id, Gate, Label, Digest, Hash, CreatedAt, From, Until, WithdrawnAt, Uses, LastUsedAt);
}
