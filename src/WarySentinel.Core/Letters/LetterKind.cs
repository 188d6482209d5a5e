using WarySentinel.Core.Catalogue;
using WarySentinel.Core.People;

namespace WarySentinel.Core.Letters;

/// <summary>How soon a letter has to be out. Each has a way of its own: many that have time never stand before one that somebody waits for.</summary>
public enum Urgency
{
    /// <summary>Somebody sits and waits for it.</summary>
    Now,
    /// <summary>Within minutes.</summary>
    Soon,
    /// <summary>One of many; when nothing else is to be sent.</summary>
    Patient,
}

/// <summary>What can stand in a template.</summary>
/// <param name="Name">As it is written between double braces, such as <c>member.name</c>.</param>
/// <param name="Sample">What stands there when a template is tried.</param>
public sealed record LetterVariable(string Name, string Sample)
{
    /// <summary>What it is, in the reader's language.</summary>
    public Wording About => Wording.Of("letter.variable." + Name);
}

/// <summary>A kind of letter: when it is written and what its template may say.</summary>
/// <param name="Key">Its name, such as <c>invitation</c>.</param>
/// <param name="Urgency">How soon it has to be out.</param>
/// <param name="IsNecessary">Whether it has to be sent; what is not says how to be left in peace (RFC 2369 §3.2).</param>
/// <param name="Variables">The names that its template knows.</param>
public sealed record LetterKind(string Key, Urgency Urgency, bool IsNecessary, IReadOnlyList<LetterVariable> Variables)
{
    private static readonly string[] Essential = ["link", "code", "password", "text", "name"];
    private static readonly string[] Aside = ["password-changed", "new-device", "locked", "shared-password", "shared-password-rotated", "pass", "pass-rotated",
        "request-received", "order-waiting", "order-ended", "order-renewal-failed",
        "plan-ending", "plan-lapsed"];

    private static readonly string[] OfJoining = ["welcome", "request-received", "request-asked", "approved", "declined"];

    /// <summary>What it has to say, as nobody can do without it what it is for.</summary>
    public IEnumerable<LetterVariable> Needed => Variables.Where(v => Essential.Contains(v.Name) && !(v.Name == "link" && Aside.Contains(Key)));

    /// <summary>What begins the names of answers: <c>answer.KEY</c> is what its reader answered the field of that key, in words.</summary>
    public const string AnswerPrefix = "answer.";

    /// <summary>Whether it knows what its reader answered in the form by which they came.</summary>
    public bool HasAnswers => OfJoining.Contains(Key);

    /// <summary>Whether it knows a name: one of <see cref="Variables"/>, or an answer where it has them. A field that is there no more says nothing.</summary>
    public bool Knows(string name) => Find(name) is not null
        || (HasAnswers && name.StartsWith(AnswerPrefix, StringComparison.Ordinal) && CatalogueKey.IsValid(name.AsSpan(AnswerPrefix.Length)));

    /// <summary>What it is called.</summary>
    public Wording Title => Wording.Of("letter.kind." + Key);

    /// <summary>When it is written.</summary>
    public Wording About => Wording.Of("letter.about." + Key);

    /// <summary>The variable of that name, or null.</summary>
    public LetterVariable? Find(string name) => Variables.FirstOrDefault(v => v.Name == name);
}

/// <summary>The kinds of letters that there are.</summary>
public static class LetterKinds
{
    /// <summary>Words of the owner's own, to one or many members.</summary>
    public const string Told = "told";

    /// <summary>The last letter to somebody whose data is gone.</summary>
    public const string Erased = "erased";

    private static readonly Dictionary<string, string> Samples = new(StringComparer.Ordinal)
    {
        ["site.name"] = "Fernlight Observatory", ["site.url"] = "https://fernlight.example", ["site.account"] = "https://fernlight.example/account/",
        ["member.name"] = SamplePerson.Name, ["member.email"] = SamplePerson.Email, ["link"] = "https://fernlight.example/account/password/set?link=SAMPLE",
        ["until"] = "14 March 2027", ["code"] = "402 918", ["minutes"] = "10", ["by"] = "Ines Vega", ["words"] = "See you on the hill.",
        ["organisation"] = SamplePerson.Organisation, ["address"] = "ada.new@quill.example", ["old"] = SamplePerson.Email, ["device"] = "Firefox on Linux",
        ["at"] = "1 March 2027, 21:40", ["gate"] = "Clearance vault", ["password"] = "amber-otter-lintel-42", ["overlap"] = "15 March 2027, 12:00 UTC",
        ["count"] = "3", ["list"] = "/products/vault-7 (guest): answered in full", ["page"] = "https://admin.fernlight.example/sweep",
        ["subject"] = "Open dome on Friday", ["text"] = "Dear Ada,\n\nthe dome is open on Friday.", ["answers"] = "Company: Quill and Sons\nCountry: Portugal",
        ["reason"] = "550 5.1.1 No such mailbox", ["order"] = SamplePerson.Order, ["things"] = "– Patron (27 November 2027)\n– Sky atlas", ["new"] = "yes",
        ["folders"] = "– Sky atlas (20 March 2027): https://fernlight.example/account/files/SAMPLE/", ["direct"] = "",
        ["begin"] = "yes", ["seats"] = "3", ["shared"] = "",
        ["from"] = "Mira Quill", ["plan"] = "Patron", ["thing"] = "Calibration frames", ["name"] = "calibration-q7mkt",
    };

    private static readonly string[] OfSite = ["site.name", "site.url", "site.account"];
    private static readonly string[] OfMember = [.. OfSite, "member.name", "member.email"];

    /// <summary>All of them, in the order in which people meet them.</summary>
    public static readonly IReadOnlyList<LetterKind> All =
    [
        Of("confirm", Urgency.Now, OfMember, "link", "until"), Of("welcome", Urgency.Soon, OfMember),
        Of("invitation", Urgency.Soon, OfMember, "link", "until", "by", "words"),
        Of("invitation-reminder", Urgency.Soon, OfMember, "link", "until", "words"),
        Of("organisation-invitation", Urgency.Soon, OfSite, "organisation", "link", "until", "by"),
        Of("request-received", Urgency.Soon, OfMember, "link"), Of("request-asked", Urgency.Soon, OfMember, "link", "words"),
        Of("approved", Urgency.Soon, OfMember, "link", "words"),
        Of("declined", Urgency.Soon, OfMember, "link", "words"), Of("set-password", Urgency.Now, OfMember, "link", "until", "minutes"),
        Of("password-changed", Urgency.Now, OfMember, "at", "device", "link"), Of("confirm-address", Urgency.Now, OfMember, "address", "link", "until"),
        Of("address-changed", Urgency.Now, OfMember, "address", "old", "at"), Of("sign-in-link", Urgency.Now, OfMember, "link", "minutes"),
        Of("sign-in-code", Urgency.Now, OfMember, "code", "minutes"), Of("new-device", Urgency.Soon, OfMember, "device", "at", "link"),
        Of("locked", Urgency.Soon, OfMember, "minutes", "link"), Of("shared-password", Urgency.Soon, OfSite, "gate", "password", "link", "until"),
        Of("shared-password-rotated", Urgency.Soon, OfSite, "gate", "password", "link", "until", "overlap"),
        Of("pass", Urgency.Soon, OfSite, "thing", "name", "password", "link", "until"),
        Of("pass-rotated", Urgency.Soon, OfSite, "thing", "name", "password", "link", "until", "overlap"),
        Of("notice-request", Urgency.Soon, OfSite, "address", "answers", "page"), Of("notice-leak", Urgency.Soon, OfSite, "count", "list", "page"),
        Of("notice-given-up", Urgency.Soon, OfSite, "address", "subject", "reason", "page"),
        Of("order", Urgency.Now, OfMember, "order", "things", "begin", "seats", "shared", "folders", "link", "new", "direct", "password"),
        Of("order-gift", Urgency.Soon, OfMember, "order", "things", "begin", "seats", "shared", "folders", "link", "new", "direct", "password", "from",
            "words"),
        Of("order-waiting", Urgency.Soon, OfMember, "order", "things"), Of("order-ended", Urgency.Soon, OfMember, "order", "things"),
        Of("order-mended", Urgency.Soon, OfMember, "order", "address"),
        Of("order-renewal-failed", Urgency.Soon, OfMember, "order", "things", "link"),
        Of("order-paused", Urgency.Soon, OfMember, "order", "things"), Of("order-resumed", Urgency.Soon, OfMember, "order", "things"),
        Of("plan-ending", Urgency.Patient, OfMember, "plan", "until", "link"), Of("plan-lapsed", Urgency.Patient, OfMember, "plan", "until", "link"),
        Of("mail-trial", Urgency.Now, OfSite, "link"), Of(Erased, Urgency.Soon, OfMember),
        new(Told, Urgency.Patient, false, Variables(OfMember, "subject", "text")),
    ];

    private static readonly Dictionary<string, LetterKind> ByKey = All.ToDictionary(k => k.Key, StringComparer.Ordinal);

    /// <summary>The kind of that key, or null.</summary>
    public static LetterKind? Find(string? key) => key is not null && ByKey.TryGetValue(key, out var kind) ? kind : null;

    /// <summary>The kind of that key. Throws <see cref="KeyNotFoundException"/> where there is none.</summary>
    public static LetterKind Get(string key) => ByKey[key];

    private static LetterKind Of(string key, Urgency urgency, string[] usual, params string[] more) => new(key, urgency, true, Variables(usual, more));

    private static LetterVariable[] Variables(string[] usual, params string[] more) => [.. usual.Concat(more).Select(n => new LetterVariable(n, Samples[n]))];
}
