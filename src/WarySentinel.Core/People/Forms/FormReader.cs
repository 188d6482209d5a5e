using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People.Forms;

/// <summary>Reads a form as somebody wrote it, against the fields of the site.</summary>
internal sealed class FormReader(FormDraft draft, IReadOnlyDictionary<string, Field> fields, int version)
{
    private const int MostSections = 20;
    private const int MostPlaced = 100;
    private const int MostGrants = 50;
    private const int MostNamed = 2000;
    private const int LongestTitle = 200;
    private const int LongestText = 2000;
    private readonly Faults faults = new();
    private readonly List<PlacedField> placed = [];
    private readonly List<Condition?> sections = [];

    /// <summary>The form, or everything that is wrong with it.</summary>
    public Outcome<JoinForm> Read()
    {
        faults.Unless(CatalogueKey.IsValid(draft.Key) && draft.Key!.Length <= 60, "key", "key-form", draft.Key);
        var way = draft.Way is null ? (JoinWay?)null : JoinSettings.WayOf(draft.Way);
        faults.Unless(way is not { } named || Enum.IsDefined(named), "way", "not-one-of", draft.Way, string.Join(", ", JoinSettings.Ways));
        Words(draft.Title, "title", LongestTitle);
        faults.Unless(!string.IsNullOrWhiteSpace(draft.Title), "title", "form-words", LongestTitle);
        Words(draft.Lead, "lead", LongestText);
        Words(draft.Button, "button", LongestTitle);
        Words(draft.Done, "done", LongestText);
        faults.Unless(draft.LeadsTo is null || ReturnTo.IsOnThisSite(draft.LeadsTo), "leadsTo", "form-leads-to", draft.LeadsTo);
        Sections();
        var grants = Grants();
        var approves = Approves();
        Languages();
        var ordered = faults.Any ? null : Ordered();
        return ordered is null ? faults.ToProblem() : new JoinForm(draft, way, sections, ordered, grants, approves) { Version = version };
    }

    private void Words(string? text, string field, int longest) =>
        faults.Unless(text is null || (text.Length <= longest && PlainText.IsClean(text, longest == LongestText)), field, "form-words", longest);

    private void Sections()
    {
        var written = draft.Sections ?? [];
        faults.Unless(written.Count <= MostSections, "sections", "form-sections", MostSections);
        var named = written.Take(MostSections).SelectMany(s => s?.Fields ?? []).Select(p => p?.Field).Where(f => f is not null).ToHashSet();
        Field? Find(string key) => named.Contains(key) ? fields.GetValueOrDefault(key) : null;
        for (var i = 0; i < Math.Min(written.Count, MostSections); i++)
        {
            var (section, place) = (written[i], $"sections[{i}]");
            if (section is null)
            {
                faults.Bad(place, "form-section");
                continue;
            }

            Words(section.Title, place + ".title", LongestTitle);
            Words(section.Lead, place + ".lead", LongestText);
            sections.Add(section.ShownIf is null ? null : Condition.Read(section.ShownIf, Find, place + ".shownIf", faults));
            for (var j = 0; j < (section.Fields?.Count ?? 0) && placed.Count <= MostPlaced; j++)
            {
                Place(section.Fields![j], i, $"{place}.fields[{j}]", Find);
            }
        }

        faults.Unless(placed.Count <= MostPlaced, "sections", "form-fields", MostPlaced);
    }

    private void Place(PlacedDraft? one, int section, string place, Func<string, Field?> find)
    {
        if (one?.Field is null || !fields.TryGetValue(one.Field, out var field))
        {
            var near = Nearest.To(one?.Field ?? "", fields.Keys);
            faults.Bad(place, near is null ? "field-unknown" : "field-unknown-near", one?.Field, near);
            return;
        }

        faults.Unless(placed.TrueForAll(p => p.Field.Key != field.Key), place, "form-field-twice", field.Key);
        placed.Add(new PlacedField(field, section, one.Required, one.ShownIf is null ? null : Condition.Read(one.ShownIf, find, place + ".shownIf", faults)));
    }

    private List<FormGrant> Grants()
    {
        var (read, written) = (new List<FormGrant>(), draft.Grants ?? []);
        faults.Unless(written.Count <= MostGrants, "grants", "form-grants", MostGrants);
        for (var i = 0; i < Math.Min(written.Count, MostGrants); i++)
        {
            var (one, place) = (written[i], $"grants[{i}]");
            var parts = one?.Grant?.Split(':', 2) ?? [];
            if (parts.Length != 2 || !FactNames.TryParse(parts[0], out var kind) || kind > FactKind.Plan || !CatalogueKey.IsValid(parts[1]))
            {
                faults.Bad(place + ".grant", "form-grant", one?.Grant);
                continue;
            }

            // Whoever may change forms makes nobody staff by one.
            faults.Unless(kind != FactKind.Role || !StaffRights.Names.Contains(parts[1]), place + ".grant", "form-grant-staff", one!.Grant);
            faults.Unless(one!.Days is null or (> 0 and <= 36_500), place + ".days", "field-bounds", 36_500);
            read.Add(new FormGrant(kind, parts[1], one.When is null ? null : Condition.Read(one.When, Placed, place + ".when", faults), one.Days,
                one.AfterApproval));
        }

        return read;
    }

    private Field? Placed(string key) => placed.Find(p => p.Field.Key == key)?.Field;

    private Condition? Approves()
    {
        var (domains, addresses) = (draft.Approves?.Domains ?? [], draft.Approves?.Addresses ?? []);
        faults.Unless(domains.Count <= MostNamed && addresses.Count <= MostNamed, "approves", "form-approves-many", MostNamed);
        foreach (var domain in domains.Take(MostNamed))
        {
            faults.Unless(domain is not null && EmailAddress.Normalise("a@" + domain) is not null, "approves.domains", "form-domain", domain);
        }

        foreach (var address in addresses.Take(MostNamed))
        {
            faults.Unless(EmailAddress.Normalise(address) is not null, "approves.addresses", "email-form", address);
        }

        return draft.Approves?.When is { } when ? Condition.Read(when, Placed, "approves.when", faults) : null;
    }

    private void Languages()
    {
        foreach (var (tag, words) in (draft.In ?? new Dictionary<string, FormWords>()).Take(40))
        {
            faults.Unless(Spelling.IsLanguage(tag), $"in.{tag}", "language", tag);
            Words(words?.Title, $"in.{tag}.title", LongestTitle);
            Words(words?.Lead, $"in.{tag}.lead", LongestText);
            Words(words?.Button, $"in.{tag}.button", LongestTitle);
            Words(words?.Done, $"in.{tag}.done", LongestText);
            foreach (var section in words?.Sections ?? [])
            {
                Words(section?.Title, $"in.{tag}.sections", LongestTitle);
                Words(section?.Lead, $"in.{tag}.sections", LongestText);
            }
        }

        faults.Unless((draft.In?.Count ?? 0) <= 40, "in", "field-languages", 40);
    }

    /// <summary>
    /// The fields such that whatever one depends on comes first; null, with a fault that names the ring, where there is no such order. A field depends on what
    /// its own condition looks at, and on what its section's looks at.
    /// </summary>
    private List<PlacedField>? Ordered()
    {
        var (ordered, path) = (new List<PlacedField>(), new List<PlacedField>());
        bool Visit(PlacedField one)
        {
            if (ordered.Contains(one))
            {
                return true;
            }

            if (path.Contains(one))
            {
                var ring = path.SkipWhile(p => p != one).Append(one).Select(p => p.Field.Key);
                faults.Bad("sections", "form-ring", string.Join(" → ", ring));
                return false;
            }

            path.Add(one);
            var asked = (one.ShownIf?.Fields ?? []).Concat(sections[one.Section]?.Fields ?? []).Distinct();
            var isGood = asked.All(key => Visit(placed.First(p => p.Field.Key == key)));
            path.RemoveAt(path.Count - 1);
            ordered.Add(one);
            return isGood;
        }

        return placed.TrueForAll(Visit) ? ordered : null;
    }
}
