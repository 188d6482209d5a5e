using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Storage.Gates;

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
        More = gate.Prompt is null && gate.Link is null && gate.Rotation is null && gate.Basic == BasicUse.No ? null
        : JsonSerializer.Serialize(new MoreOfGate(gate.Prompt, gate.Link, gate.Rotation, gate.Basic)),
    };

    /// <summary>The gate, and what of the row cannot be read: then it is closed to everybody.</summary>
    public (Gate Gate, StoredFault? Fault) ToGate()
    {
        var wrong = new List<Wording>();
        var more = MoreOf(wrong);
        var covers = new List<Selector>();
        foreach (var text in Covers)
        {
            if (Selector.TryParse(text, out var selector, out var reason))
            {
                covers.Add(selector);
            }
            else
            {
                wrong.Add(Wording.Of("stored.covers", reason));
            }
        }

        if (covers.Count < Math.Max(1, Covers.Length) && !IsExemption)
        {
            // What else it covered is not known: it may have been anything.
            covers.Add(new Selector(ItemId.Site, null));
        }

        var audience = AudienceParser.ParseStored(Audience);
        if (audience.Problem is { } problem)
        {
            wrong.Add(Wording.Of("stored.audience", problem.Detail, Audience));
        }

        var gate = Plain(covers, audience.IsGood ? audience.Value : Core.Access.Audience.Anyone, wrong) with
        {
            Prompt = more?.Prompt,
            Link = more?.Link,
            Rotation = more?.Rotation,
            // What nobody knows takes none.
            Basic = more is { Basic: { } taken } && Enum.IsDefined(taken) ? taken : BasicUse.No,
        };
        if (wrong.Count == 0)
        {
            return (gate, null);
        }

        var said = Wording.Joined(wrong);
        // An exemption that cannot be read lifts nothing.
        return (IsExemption ? gate with { Enabled = false, Unreadable = said } : Salvage.Closed(gate, said), new StoredFault("gate", Key, said, covers));
    }

    /// <summary>A gate whose row cannot be read at all.</summary>
    public static (Gate Gate, StoredFault Fault) Lost(string key, Wording reason)
    {
        var fault = StoredFault.OfSite("gate", key, Wording.Of("stored.row", reason));
        return (Salvage.Closed(new Gate { Key = key, Title = key, Covers = fault.Covered }, fault.Reason), fault);
    }

    private MoreOfGate? MoreOf(List<Wording> wrong)
    {
        try
        {
            return More is null ? null : JsonSerializer.Deserialize<MoreOfGate>(More);
        }
        catch (JsonException fault)
        {
            wrong.Add(Wording.Of("stored.more", fault.Message));
            return null;
        }
    }

    private Gate Plain(IReadOnlyList<Selector> covers, Audience audience, List<Wording> wrong)
    {
        T Known<T>(T value, bool known, T otherwise)
        {
            if (!known)
            {
                wrong.Add(Wording.Of("stored.value", value));
            }

            return known ? value : otherwise;
        }

        var unlock = Known(UnlockSeconds, UnlockSeconds is >= 0 and < 400L * 24 * 3600 * 10, (long)Gate.UsualUnlock.TotalSeconds);
        return new()
        {
            Key = Key,
            Title = Title,
            Covers = covers,
            ItemOnly = ItemOnly,
            IsExemption = IsExemption,
            Audience = audience,
            Acts = Known((Acts)Acts, Acts > 0 && ((Acts)Acts & ~(Core.Access.Acts.Usual | Core.Access.Acts.List)) == 0, Core.Access.Acts.Usual),
            Presence = Presence == BySite ? Core.Access.Presence.Listed
            : Known((Presence)Presence, Enum.IsDefined((Presence)Presence), Core.Access.Presence.Hidden),
            PresenceBySite = Presence == BySite,
            Answer = Known((Answer)Answer, Enum.IsDefined((Answer)Answer), Core.Access.Answer.Auto),
            Message = Message,
            RedirectTo = RedirectTo,
            From = From,
            Until = Until,
            Enabled = Enabled,
            UnlockFor = TimeSpan.FromSeconds(unlock),
            Version = Version,
        };
    }

    public static void Map(EntityTypeBuilder<GateRow> e)
    {
        e.ToTable("gates");
        e.HasKey(r => r.Key);
    }
}

internal sealed record MoreOfGate(PromptWords? Prompt, SiteLink? Link, Rotation? Rotation, BasicUse? Basic = null);
