using System.Xml;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

/// <summary>A gate as people write it; nothing in it is checked yet.</summary>
public sealed record GateDraft
{
    /// <summary>Its name; made from the title where empty.</summary>
    public string? Key { get; init; }

    /// <summary>What the owner calls it.</summary>
    public string? Title { get; init; }

    /// <summary>Selectors: <c>category:filters</c>, <c>site</c>, <c>path:/members/**</c>.</summary>
    public IReadOnlyList<string>? Covers { get; init; }

    /// <summary><c>branch</c> (usual) or <c>item</c>.</summary>
    public string? Reach { get; init; }

    /// <summary><c>requirement</c> (usual) or <c>exemption</c>.</summary>
    public string? Kind { get; init; }

    /// <summary>The audience expression; not on an exemption.</summary>
    public string? Audience { get; init; }

    /// <summary>Names of acts; empty for the usual ones.</summary>
    public IReadOnlyList<string>? Acts { get; init; }

    /// <summary><c>listed</c>, <c>hidden</c>, or <c>default</c> (usual): as the settings of the site say.</summary>
    public string? Presence { get; init; }

    /// <summary><c>auto</c> (usual), <c>sign-in</c>, <c>password</c>, <c>redirect</c>, <c>message</c>, <c>not-found</c>.</summary>
    public string? Answer { get; init; }

    /// <summary>The owner's words for the refused.</summary>
    public string? Message { get; init; }

    /// <summary>An address on this site, for <c>redirect</c>.</summary>
    public string? RedirectTo { get; init; }

    /// <summary>Start: a moment such as <c>2026-12-01T18:00:00Z</c>, or a day in the site's time zone.</summary>
    public string? From { get; init; }

    /// <summary>End: a moment, or a day that is the last to count.</summary>
    public string? Until { get; init; }

    /// <summary>Whether it counts; true unless said.</summary>
    public bool? Enabled { get; init; }

    /// <summary>How long a shared password opens it: an ISO 8601 duration such as <c>P14D</c>, or <c>session</c>: until the browser is closed.</summary>
    public string? UnlockFor { get; init; }

    /// <summary>The owner's words on its password prompt.</summary>
    public PromptWords? Prompt { get; init; }

    /// <summary>Where the refused learn how to get in: an address on this site, an https address or a mailto.</summary>
    public SiteLink? Link { get; init; }

    /// <summary>How its shared passwords are changed by themselves.</summary>
    public RotationDraft? Rotation { get; init; }

    /// <summary>The draft that says what a gate says.</summary>
    public static GateDraft Of(Gate gate) => new()
    {
        Key = gate.Key,
        Title = gate.Title,
        Covers = [.. gate.Covers.Select(c => c.ToString())],
        Reach = gate.ItemOnly ? "item" : "branch",
        Kind = gate.IsExemption ? "exemption" : "requirement",
        Audience = gate.IsExemption ? null : gate.Audience.ToString(),
        Acts = ActNames.NamesOf(gate.Acts),
        Presence = gate.PresenceBySite ? "default" : gate.Presence.ToString().ToLowerInvariant(),
        Answer = AnswerNames.NameOf(gate.Answer),
        Message = gate.Message,
        RedirectTo = gate.RedirectTo,
        From = gate.From is { } from ? SiteDates.Write(from) : null,
        Until = gate.Until is { } until ? SiteDates.Write(until) : null,
        Enabled = gate.Enabled,
        UnlockFor = gate.UnlockFor == TimeSpan.Zero ? "session" : XmlConvert.ToString(gate.UnlockFor),
        Prompt = gate.Prompt,
        Link = gate.Link,
        Rotation = RotationDraft.Of(gate.Rotation),
    };

    /// <summary>Whether both say the same, field by field.</summary>
    public bool SaysTheSameAs(GateDraft other) => Detail.ChangesOf(Detail.Of(this, other)).Count == 0;

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    public Outcome<Gate> Read(Policy policy, IKnownKeys known, IReadOnlyList<string> reserved)
    {
        var faults = new List<Fault>();
        string? code = null;
        void Bad(string field, string fault, params object?[] values)
        {
            code ??= fault;
            faults.Add(new Fault(field, Words.Of("problem." + fault, values)));
        }

        var title = Title?.Trim() ?? "";
        if (title.Length is 0 or > 200 || !PlainText.IsClean(title))
        {
            Bad("title", "title-length", 200);
        }

        var key = string.IsNullOrWhiteSpace(Key) ? Slug.Of(title) : Key;
        if (!CatalogueKey.IsValid(key))
        {
            Bad("key", "key-form", key);
        }

        var exempts = Kind == "exemption";
        if (Kind is not (null or "requirement" or "exemption"))
        {
            Bad("kind", "not-one-of", Kind, "requirement, exemption");
        }

        var covers = ReadCovers(policy, reserved, Bad);
        Audience audience = Access.Audience.Anyone;
        if (!exempts)
        {
            var read = AudienceParser.Parse(Audience ?? "", known);
            if (read.Problem is { } problem)
            {
                code ??= problem.Code;
                faults.AddRange(problem.Faults);
            }
            else
            {
                audience = read.Value;
            }
        }
        else if (!string.IsNullOrWhiteSpace(Audience))
        {
            Bad("audience", "exemption-audience");
        }

        var acts = Access.Acts.None;
        foreach (var name in Acts ?? [])
        {
            if (!ActNames.TryParse(name, out var act) || act == Access.Acts.List)
            {
                Bad("acts", "not-one-of", name, "open, price, buy, download, listen");
            }

            acts |= act;
        }

        var presence = policy.Settings.Presence;
        var bySite = Presence is null or "default";
        if (!bySite && !TryName(Presence!, out presence))
        {
            Bad("presence", "not-one-of", Presence, "listed, hidden, default");
        }

        var answer = Access.Answer.Auto;
        if (Answer is not null && !AnswerNames.TryParse(Answer, out answer))
        {
            Bad("answer", "not-one-of", Answer, string.Join(", ", AnswerNames.All));
        }

        if (answer == Access.Answer.Password && !exempts && faults.Count == 0 && !audience.AsksForPassword)
        {
            Bad("answer", "answer-needs-password");
        }

        if (answer == Access.Answer.Redirect && !ReturnTo.IsOnThisSite(RedirectTo))
        {
            Bad("redirectTo", "redirect-form");
        }

        if (Reach is not (null or "branch" or "item"))
        {
            Bad("reach", "not-one-of", Reach, "branch, item");
        }

        if (Message?.Length > 2000 || !PlainText.IsClean(Message, true))
        {
            Bad("message", "message-length", 2000);
        }

        var (from, until) = SiteDates.ReadBoth(policy.Settings.TimeZone, From, Until, Bad);

        var unlock = Gate.UsualUnlock;
        if (UnlockFor == "session")
        {
            unlock = TimeSpan.Zero;
        }
        else if (UnlockFor is not null && !TryDuration(UnlockFor, TimeSpan.FromMinutes(1), out unlock))
        {
            Bad("unlockFor", "duration-form", UnlockFor);
        }

        var prompt = PromptWords.Tidy(Prompt);
        if (prompt?.Wrong() is { } wrong)
        {
            Bad("prompt." + wrong, "prompt-length");
        }

        var link = Link is null || string.IsNullOrWhiteSpace(Link.Address) ? null : Link;
        if (link is not null && (!IsLink(link.Address) || string.IsNullOrWhiteSpace(link.Words) || link.Words.Length > 80 || !PlainText.IsClean(link.Words)))
        {
            Bad("link", "gate-link-form");
        }

        var rotation = Rotation?.Read(Bad);
        if (rotation is not null && faults.Count == 0 && !audience.AsksForPassword)
        {
            Bad("rotation", "rotation-needs-password");
        }

        if (faults.Count > 0)
        {
            return new Problem(ProblemKind.Invalid, code!, faults.Count == 1 ? faults[0].Message : Words.Of("problem.several", faults.Count), faults);
        }

        return new Gate
        {
            Key = key,
            Title = title,
            Covers = covers,
            ItemOnly = Reach == "item",
            IsExemption = exempts,
            Audience = audience,
            Acts = acts == Access.Acts.None ? Access.Acts.Usual : acts,
            Presence = presence,
            Answer = answer,
            Message = string.IsNullOrWhiteSpace(Message) ? null : Message.Trim(),
            RedirectTo = answer == Access.Answer.Redirect ? RedirectTo : null,
            From = from,
            Until = until,
            Enabled = Enabled ?? true,
            UnlockFor = unlock,
            PresenceBySite = bySite,
            Prompt = prompt,
            Link = link,
            Rotation = rotation,
        };
    }

    private List<Selector> ReadCovers(Policy policy, IReadOnlyList<string> reserved, Action<string, string, object?[]> bad)
    {
        var covers = new List<Selector>();
        foreach (var text in (Covers ?? []).Distinct())
        {
            if (!Selector.TryParse(text, out var selector, out var reason))
            {
                bad("covers", "selector", [reason]);
            }
            else if (selector.Item is { } id && policy.Graph.PlaceOf(id) < 0)
            {
                var near = Nearest.To(text, policy.Graph.Items.Take(20_000).Select(i => i.Id.ToString()));
                bad("covers", near is null ? "item-unknown" : "item-unknown-near", [text, near]);
            }
            else if (selector.Path is { } path && reserved.Any(r => RequestPath.IsUnder(path.PathText, r)))
            {
                bad("covers", "closes-sign-in", [text]);
            }
            else
            {
                covers.Add(selector);
            }
        }

        if ((Covers ?? []).Count == 0)
        {
            bad("covers", "covers-empty", []);
        }

        return covers;
    }

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
