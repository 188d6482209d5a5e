using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Storage.People;

/// <summary>How forms, answers and requests to join are stored.</summary>
internal static class FormChanges
{
    private static readonly string[] Whole =
    [
        nameof(JoinRequestRow.State), nameof(JoinRequestRow.NeedsApproval), nameof(JoinRequestRow.Grants), nameof(JoinRequestRow.Signs),
        nameof(JoinRequestRow.Words), nameof(JoinRequestRow.DecidedAt), nameof(JoinRequestRow.By), nameof(JoinRequestRow.Version),
    ];

    public static void Register(Writers writers)
    {
        writers.On<FieldPut>((w, put) => w.PutAsync(FieldRow.Of(put.Field, put.Version), put.Field.Key!));
        writers.On<FieldDropped>((w, dropped) => w.Db.Fields.Where(f => f.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.On<FormPut>((w, put) => w.PutAsync(FormRow.Of(put.Form, put.Version), put.Form.Key!));
        writers.On<FormDropped>((w, dropped) => w.Db.Forms.Where(f => f.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.Also<FactReplaced>(ReplaceAsync);
        writers.On<AnswersSet>(SetAsync);
        writers.On<AnswersErased>(async (w, erased) =>
        {
            await w.Db.AnswerFiles.Where(f => f.Field == erased.Field).ExecuteDeleteAsync(w.Stop);
            await w.Db.Answers.Where(a => a.Field == erased.Field).ExecuteDeleteAsync(w.Stop);
        });
        writers.Gather<FileKept>((w, kept) => w.Rows.Insert(AnswerFileRow.Of(kept.File)));
        writers.Gather<RequestAdded>((w, added) => w.Rows.Insert(JoinRequestRow.Of(added.Request)));
        writers.Gather<RequestSet>((w, set) => w.Rows.Update(JoinRequestRow.Of(set.Request), Whole, set.Was));
    }

    private static async Task SetAsync(Writing w, AnswersSet set)
    {
        if (set.Answers.Count == 0)
        {
            return;
        }

        var fields = set.Answers.Select(a => a.Field).ToList();
        if (!set.AreFirst)
        {
            await w.SaveAsync();
            await w.Db.Answers.Where(a => a.MemberId == set.Member && fields.Contains(a.Field)).ExecuteDeleteAsync(w.Stop);
        }

        foreach (var row in set.Answers.SelectMany(a => AnswerRow.Of(set.Member, a)))
        {
            w.Rows.Insert(row);
        }

        if (set.AreFirst)
        {
            return;
        }

        // A file that is no answer any more goes with it.
        var kept = set.Answers.SelectMany(a => a.Values).Where(v => Guid.TryParseExact(v, "N", out _)).Select(v => Guid.ParseExact(v, "N")).ToList();
        await w.Db.AnswerFiles.Where(f => f.MemberId == set.Member && fields.Contains(f.Field) && !kept.Contains(f.Id)).ExecuteDeleteAsync(w.Stop);
    }

    /// <summary>Forms that give a fact give what stands in its place.</summary>
    private static async Task ReplaceAsync(Writing w, FactReplaced replaced)
    {
        await w.SaveAsync();
        var book = FormBodies.Book([], await w.Db.Forms.AsNoTracking().ToListAsync(w.Stop), []);
        foreach (var form in ((FormBook)book.Mapped(replaced.In)).Changed(book))
        {
            await w.PutAsync(FormRow.Of(form.Draft, form.Version), form.Draft.Key!);
        }

        w.Db.ChangeTracker.Clear();
    }
}
