using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;

namespace WarySentinel.Storage.Entries;

internal sealed class EntryRow
{
    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web)
    { DefaultIgnoreCondition = System.Text.Json.Serialization.JsonIgnoreCondition.WhenWritingNull };

    private static readonly Address Anywhere = Address.Parse("/**");

    public required string Key { get; set; }

    /// <summary>The rule as people write it.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static EntryRow Of(EntryRule rule) =>
        new() { Key = rule.Key, Body = JsonSerializer.Serialize(EntryDraft.Of(rule), Written), Version = rule.Version };

    /// <summary>The rule; where it cannot be read, one that closes the addresses that it was for.</summary>
    public (EntryRule Rule, StoredFault? Fault) ToRule()
    {
        EntryDraft? draft;
        try
        {
            draft = JsonSerializer.Deserialize<EntryDraft>(Body, Written);
        }
        catch (JsonException)
        {
            draft = OnlyAddresses(Body);
        }

        if (draft is not null && (draft with { Key = Key }).Read() is { IsGood: true, Value: var rule })
        {
            return (rule with { Version = Version }, null);
        }

        var at = (draft?.At ?? []).Select(text => Address.TryParse(text, out var address, out _) ? address : Anywhere).DefaultIfEmpty(Anywhere).ToList();
        return (new EntryRule { Key = Key, At = at, Version = Version },
            StoredFault.Harmless("entry", Key, Wording.Of("stored.value", Body.Length > 200 ? Body[..200] : Body)));
    }

    /// <summary>What can still be read of a rule: where it is for.</summary>
    private static EntryDraft? OnlyAddresses(string body)
    {
        try
        {
            return JsonSerializer.Deserialize<Where>(body, Written) is { } where ? new EntryDraft { At = where.At } : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private sealed record Where(IReadOnlyList<string>? At);

    public static void Map(EntityTypeBuilder<EntryRow> e)
    {
        e.ToTable("entries");
        e.HasKey(r => r.Key);
    }
}
