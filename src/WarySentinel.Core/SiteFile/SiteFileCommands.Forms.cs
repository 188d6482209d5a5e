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
        Joining(file.Joining, alone);
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

    private void Joining(Written<JoiningDraft>? entry, Policy now)
    {
        if (entry is null)
        {
            return;
        }

        var was = JoiningDraft.Of(now.Settings.Joining);
        One(entry with { Place = field => entry.Place(field.Replace("joining.", "", StringComparison.Ordinal)) }, "joining", was,
            SettingsCommands.Set(now, now.Settings with { Joining = entry.Draft.Over(now.Settings.Joining) }, null, around)
                .Match<Outcome<Made<JoiningDraft>>>(
                    put => new Made<JoiningDraft>(put.ToStore, "joining", JoiningDraft.Of(put.Value.Joining)), problem => problem));
    }

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
