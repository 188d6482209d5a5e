using System.Xml;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

/// <summary>Makes a gate of what people write, field by field; what is wrong is gathered and told at once.</summary>
internal sealed class GateReader(GateDraft draft, Policy policy, IKnownKeys known, IReadOnlyList<string> reserved)
{
    private const int MostOffered = 20_000;
    private static readonly TimeSpan ShortestUnlock = TimeSpan.FromMinutes(1);
    private readonly Faults faults = new();
    private readonly bool exempts = draft.Kind == "exemption";

    /// <summary>The gate, or everything that is wrong with it.</summary>
    public Outcome<Gate> Read()
    {
        var title = draft.Title?.Trim() ?? "";
        faults.Unless(title.Length is > 0 and <= 200 && PlainText.IsClean(title), "title", "title-length", 200);
        var key = string.IsNullOrWhiteSpace(draft.Key) ? Slug.Of(title) : draft.Key;
        faults.Unless(CatalogueKey.IsValid(key), "key", "key-form", key);
        faults.Unless(draft.Kind is null or "requirement" or "exemption", "kind", "not-one-of", draft.Kind, "requirement, exemption");
        var gate = new Gate
        {
            Key = key, Title = title, IsExemption = exempts, Covers = Covers(), Audience = Whom(), Acts = Acts(), Enabled = draft.Enabled ?? true,
            ItemOnly = draft.Reach == "item",
        };
        gate = Refused(gate);
        faults.Unless(draft.Reach is null or "branch" or "item", "reach", "not-one-of", draft.Reach, "branch, item");
        faults.Unless(draft.Message is not { Length: > 2000 } && PlainText.IsClean(draft.Message, true), "message", "message-length", 2000);
        var (from, until) = SiteDates.ReadBoth(policy.Settings.TimeZone, draft.From, draft.Until, faults.Bad);
        gate = Prompted(gate with { From = from, Until = until });
        return faults.Any ? faults.ToProblem() : gate;
    }

    private List<Selector> Covers()
    {
        var covers = new List<Selector>();
        foreach (var text in (draft.Covers ?? []).Distinct())
        {
            if (!Selector.TryParse(text, out var selector, out var reason))
            {
                faults.Bad("covers", "selector", reason);
            }
            else if (selector.Item is { } id && policy.Graph.PlaceOf(id) < 0)
            {
                var near = Nearest.To(text, policy.Graph.Items.Take(MostOffered).Select(i => i.Id.ToString()));
                faults.Bad("covers", near is null ? "item-unknown" : "item-unknown-near", text, near);
            }
            else if (selector.Path is { } path && reserved.Any(r => RequestPath.IsUnder(path.PathText, r)))
            {
                faults.Bad("covers", "closes-sign-in", text);
            }
            else
            {
                covers.Add(selector);
            }
        }

        faults.Unless(draft.Covers is { Count: > 0 }, "covers", "covers-empty");
        return covers;
    }

    private Audience Whom()
    {
        if (exempts)
        {
            faults.Unless(string.IsNullOrWhiteSpace(draft.Audience), "audience", "exemption-audience");
            return Audience.Anyone;
        }

        var read = AudienceParser.Parse(draft.Audience ?? "", known);
        if (read.Problem is { } problem)
        {
            faults.Take(problem);
            return Audience.Anyone;
        }

        return read.Value;
    }

    private Acts Acts()
    {
        var acts = Access.Acts.None;
        foreach (var name in draft.Acts ?? [])
        {
            faults.Unless(ActNames.TryParse(name, out var act) && act != Access.Acts.List, "acts", "not-one-of", name, "open, price, buy, download, listen");
            acts |= act;
        }

        return acts == Access.Acts.None ? Access.Acts.Usual : acts;
    }

    /// <summary>What the refused meet.</summary>
    private Gate Refused(Gate gate)
    {
        var (presence, bySite) = (policy.Settings.Presence, draft.Presence is null or "default");
        faults.Unless(bySite || TryName(draft.Presence!, out presence), "presence", "not-one-of", draft.Presence, "listed, hidden, default");
        var answer = Answer.Auto;
        faults.Unless(
            draft.Answer is null || AnswerNames.TryParse(draft.Answer, out answer), "answer", "not-one-of", draft.Answer, string.Join(", ", AnswerNames.All));
        faults.Unless(answer != Answer.Password || exempts || faults.Any || gate.Audience.AsksForPassword, "answer", "answer-needs-password");
        faults.Unless(answer != Answer.Redirect || ReturnTo.IsOnThisSite(draft.RedirectTo), "redirectTo", "redirect-form");
        return gate with
        {
            Presence = presence,
            PresenceBySite = bySite,
            Answer = answer,
            RedirectTo = answer == Answer.Redirect ? draft.RedirectTo : null,
            Message = string.IsNullOrWhiteSpace(draft.Message) ? null : draft.Message.Trim(),
        };
    }

    /// <summary>What its password prompt says, and what its passwords do.</summary>
    private Gate Prompted(Gate gate)
    {
        var unlock = Gate.UsualUnlock;
        if (draft.UnlockFor == "session")
        {
            unlock = TimeSpan.Zero;
        }
        else
        {
            faults.Unless(draft.UnlockFor is null || TryDuration(draft.UnlockFor, ShortestUnlock, out unlock), "unlockFor", "duration-form", draft.UnlockFor);
        }

        var prompt = PromptWords.Tidy(draft.Prompt);
        if (prompt?.Wrong() is { } wrong)
        {
            faults.Bad("prompt." + wrong, "prompt-length");
        }

        var link = draft.Link is null || string.IsNullOrWhiteSpace(draft.Link.Address) ? null : draft.Link;
        faults.Unless(link is null || IsGood(link), "link", "gate-link-form");
        var rotation = draft.Rotation?.Read(faults.Bad);
        faults.Unless(rotation is null || faults.Any || gate.Audience.AsksForPassword, "rotation", "rotation-needs-password");
        var basic = BasicUse.No;
        faults.Unless(draft.Basic is null || TryName(draft.Basic, out basic), "basic", "not-one-of", draft.Basic,
            "no, tools, everybody");
        return gate with { UnlockFor = unlock, Prompt = prompt, Link = link, Rotation = rotation, Basic = exempts ? BasicUse.No : basic };
    }

    private static bool IsGood(SiteLink link) =>
        IsLink(link.Address) && !string.IsNullOrWhiteSpace(link.Words) && link.Words.Length <= 80 && PlainText.IsClean(link.Words);

    /// <summary>Whether a link may stand on a page of ours: an address on this site, http(s), or mailto.</summary>
    private static bool IsLink(string text) => ReturnTo.IsOnThisSite(text)
        || (text.Length < 500 && Uri.TryCreate(text, UriKind.Absolute, out var url) && url.Scheme is "https" or "http" or "mailto");

    internal static bool TryDuration(string text, TimeSpan least, out TimeSpan duration)
    {
        duration = default;
        try
        {
            duration = XmlConvert.ToTimeSpan(text);
            return duration >= least && duration <= TimeSpan.FromDays(3660);
        }
        catch (Exception fault) when (fault is FormatException or OverflowException)
        {
            return false;
        }
    }

    private static bool TryName<T>(string text, out T value)
        where T : struct, Enum => Enum.TryParse(text, true, out value) && value.ToString().Equals(text, StringComparison.OrdinalIgnoreCase);
}
