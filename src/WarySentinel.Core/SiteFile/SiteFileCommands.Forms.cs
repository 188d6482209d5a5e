using WarySentinel.Core.Access;
using WarySentinel.Core.Gates;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.SiteFile;

public sealed partial class SiteFileCommands
{
    /// <summary>Who publishes what a file says; the history names who applied it.</summary>
    private const string ByFile = "site file";

    /// <summary>Terms and fields first, then the forms that use them; what is pruned goes the other way round.</summary>
    private void Forms(SiteDocument file, Policy between, IKnownKeys known)
    {
        var (fields, forms, terms) = (file.Fields, file.Forms, TermsBook.Of(policy));
        var book = FormBook.Of(policy);
        // Forms look at nothing but each other and what they give: a policy of that alone is changed in no time.
        var alone = Policy.Build([], [], between.Definitions, between.Settings, PolicyParts.Of(book, terms, MemberDirectory.Of(policy))).Value;
        static Policy After(Policy now, Edit edit) => now.TryAfter(edit) is { IsGood: true } after ? after.Value : now;
        var ofFields = new Section<FieldDraft, FieldDraft>(
            "fields", book.Fields.ToDictionary(f => f.Key, FieldDraft? (f) => f.Draft),
            (now, draft) => FormCommands.WithoutForms(now, draft).Match<Outcome<Made<FieldDraft>>>(
                put => new Made<FieldDraft>(put.ToStore, put.Value.Key, put.Value.Draft), problem => problem),
            (now, key) => ToStore(FormCommands.RemoveField(now, key)), Bad);
        var ofForms = new Section<FormDraft, FormDraft>(
            "forms", book.Forms.Select(f => f.Key).Concat(book.BrokenForms).ToDictionary(k => k, k => book.DraftOf(k)?.Draft),
            (now, draft) => FormCommands.PutForm(now, draft).Match<Outcome<Made<FormDraft>>>(
                put => new Made<FormDraft>(put.ToStore, put.Value.Key, put.Value.Draft), problem => problem),
            (now, key) => ToStore(FormCommands.RemoveForm(now, key)), Bad);
        var ofTerms = new Section<TermsDraft, TermsDraft>(
            "terms", terms.All.ToDictionary(t => t.Key, TermsDraft? (t) => t.ToDraft()),
            (now, draft) => TermsCommands.Put(now, draft, new TermsSurroundings(known, ByFile, around.Now)).Match<Outcome<Made<TermsDraft>>>(
                put => new Made<TermsDraft>(put.ToStore, put.Value.Key, put.Value.ToDraft()), problem => problem),
            (now, key) => ToStore(TermsCommands.Remove(now, key)), Bad);
        var (reached, seenTerms) = Each(ofTerms, file.Terms, alone, After);
        (reached, var seenFields) = Each(ofFields, fields, reached, After);
        Settings(file, alone);
        Directory(file.Directory, reached, known);
        (reached, var seenForms) = Each(ofForms, forms, reached, After);
        reached = Gone(ofForms, forms is not null, seenForms, reached, After);
        reached = Gone(ofFields, fields is not null, seenFields, reached, After);
        reached = Gone(ofTerms, file.Terms is not null, seenTerms, reached, After);
        if (faults.Count == 0 && FormBook.Of(reached).BrokenForms.Except(book.BrokenForms).FirstOrDefault() is { } lost)
        {
            faults.Add(new Fault("forms", Wording.Of("form-broken", lost, FormBook.Of(reached).Broken.First(b => b.Key == lost).Problem.Detail)));
        }
    }

    /// <summary>The parts of the settings, each over what those before it made.</summary>
    private void Settings(SiteDocument file, Policy now)
    {
        now = Setting(
            file.Site, "site", now, SiteDraft.Of, (draft, old) => draft.Over(old), field => SiteDraft.FieldOf(field));
        now = Setting(
            file.Look, "look", now, s => LookDraft.Of(s.Look), (draft, old) => old with { Look = draft.Over(old.Look) }, field => Beneath(field, "look."));
        Setting(
            file.Joining, "joining", now, s => JoiningDraft.Of(s.Joining), (draft, old) => old with { Joining = draft.Over(old.Joining) },
            field => Beneath(field, "joining."));
    }

    /// <summary>One part of the settings; gives the policy with it.</summary>
    private Policy Setting<TDraft>(
        Written<TDraft>? entry, string name, Policy now, Func<SiteSettings, TDraft> said, Func<TDraft, SiteSettings, SiteSettings> over,
        Func<string, string> fieldOf)
        where TDraft : class
    {
        if (entry is null)
        {
            return now;
        }

        var put = SettingsCommands.Set(now, over(entry.Draft, now.Settings), null, around);
        One(entry with { Place = field => entry.Place(fieldOf(field)) }, name, said(now.Settings),
            put.Match<Outcome<Made<TDraft>>>(p => new Made<TDraft>(p.ToStore, name, said(p.Value)), problem => problem));
        return put.IsGood && now.TryAfter(put.Value.ToStore) is { IsGood: true } after ? after.Value : now;
    }

    private static string Beneath(string field, string part) => field.StartsWith(part, StringComparison.Ordinal) ? field[part.Length..] : field;

    private void Directory(Written<DirectoryDraft>? entry, Policy now, IKnownKeys known)
    {
        if (entry is not null)
        {
            var old = MemberDirectory.Of(now);
            One(entry, "directory", old.Version == 0 ? null : old.ToDraft(), DirectoryCommands.Put(now, entry.Draft, known)
                .Match<Outcome<Made<DirectoryDraft>>>(
                    put => new Made<DirectoryDraft>(put.ToStore, "directory", put.Value.ToDraft()), problem => problem));
        }
    }
}
