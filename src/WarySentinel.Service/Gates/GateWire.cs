using WarySentinel.Contract.Gates;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Web;
using Rules = WarySentinel.Core.Gates;
using Wire = WarySentinel.Contract;

namespace WarySentinel.Service.Gates;

/// <summary>Gates between the wire and the rules.</summary>
public static class GateWire
{
    /// <summary>A gate as it is told, with its sentence.</summary>
    public static GateView ToWire(this Gate gate, Policy policy, DateTimeOffset now)
    {
        var draft = Rules.GateDraft.Of(gate);
        var sentence = GateSentence.Of(gate, policy);
        var dates = new SiteDates(policy.Settings.TimeZone);
        return new GateView(
            gate.Key, gate.Title, draft.Kind!, draft.Covers!, draft.Reach!, draft.Audience, draft.Acts!, draft.Presence!, draft.Answer!, gate.Message,
            gate.RedirectTo, gate.From, gate.Until, gate.Enabled, gate.IsInForce(now), draft.UnlockFor!, gate.Prompt.ToWire(), gate.Link?.ToWire(),
            draft.Rotation.ToWire(), gate.Version, sentence.ToString(), sentence.Parts.ToWire(), gate.IsExemption ? null : gate.Audience.Rows(),
            gate.Unreadable?.ToReader(), gate.StandsIn, gate.From is { } from ? dates.Type(from, false) : null,
            gate.Until is { } until ? dates.Type(until, true) : null, draft.Basic!);
    }

    /// <summary>What was sent, for the rules to read.</summary>
    public static Rules.GateDraft ToCore(this Wire.Gates.GateDraft draft) => new()
    {
        Key = draft.Key,
        Title = draft.Title,
        Covers = draft.Covers,
        Reach = draft.Reach,
        Kind = draft.Kind,
        Audience = draft.Audience,
        Acts = draft.Acts,
        Presence = draft.Presence,
        Answer = draft.Answer,
        Message = draft.Message,
        RedirectTo = draft.RedirectTo,
        From = draft.From,
        Until = draft.Until,
        Enabled = draft.Enabled,
        UnlockFor = draft.UnlockFor,
        Basic = draft.Basic,
        Prompt = draft.Prompt.ToCore(),
        Link = draft.Link?.ToCore(),
        Rotation = draft.Rotation is { } rotation ? new Rules.RotationDraft(rotation.Every, rotation.Overlap, rotation.Tell) : null,
    };

    /// <summary>What a change would do, with the sentence of the gate as it would stand.</summary>
    public static EffectView ToWire(this Effect effect, Gate gate, Policy policy)
    {
        var sentence = GateSentence.Of(gate, policy);
        return new EffectView(
            effect.ItemsClosing, effect.ItemsOpening, effect.MembersLosing, effect.MembersGaining, effect.MembersKeeping, effect.LosingNames,
            effect.GainingNames, [.. effect.Elsewhere.Select(i => i.ToName())],
            [.. effect.Rows.Select(r => new EffectRowView(
                r.Item.Id.ToString(), r.Item.Title, r.AlsoBeneath, r.ForWhom, SightNames.NameOf(r.Before), SightNames.NameOf(r.After),
                r.Gained, r.Lost))],
            effect.MoreRows, sentence.ToString(), sentence.Parts.ToWire(), gate.IsExemption ? null : gate.Audience.ToString(),
            gate.IsExemption ? null : gate.Audience.Rows());
    }

    /// <summary>Words of a password prompt.</summary>
    public static Wire.Access.PromptWords? ToWire(this PromptWords? words) =>
        words is null ? null : new(words.Heading, words.Text, words.Label, words.Placeholder, words.Button);

    /// <summary>Words of a password prompt.</summary>
    public static PromptWords? ToCore(this Wire.Access.PromptWords? words) =>
        words is null ? null : new(words.Heading, words.Text, words.Label, words.Placeholder, words.Button);

    /// <summary>A link and its words.</summary>
    public static Wire.Access.SiteLink ToWire(this SiteLink link) => new(link.Address, link.Words);

    /// <summary>A link and its words.</summary>
    public static SiteLink ToCore(this Wire.Access.SiteLink link) => new(link.Address, link.Words);

    private static Wire.Gates.RotationDraft? ToWire(this Rules.RotationDraft? draft) => draft is null ? null : new(draft.Every, draft.Overlap, draft.Tell);

    private static IReadOnlyList<Wire.Gates.SentencePart> ToWire(this IReadOnlyList<Rules.SentencePart> parts) =>
        [.. parts.Select(p => new Wire.Gates.SentencePart(p.Edits, p.Text))];
}
