using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Consents;
using WarySentinel.Storage.Access;

namespace WarySentinel.Storage.People;

/// <summary>How terms, and what members say to them, are stored.</summary>
internal static class ConsentChanges
{
    public static void Register(Writers writers)
    {
        writers.On<TermsPut>((w, put) => w.PutAsync(TermsRow.Of(put), put.Key));
        writers.On<TermsPublished>(async (w, published) =>
        {
            await w.PutAsync(TermsRow.Of(published.Terms), published.Terms.Key);
            // Two who publish at once: the second one's number is taken.
            w.Rows.Insert(TermsTextRow.Of(published.Terms.Key, published.Text));
        });
        writers.On<TermsWithdrawn>(async (w, withdrawn) =>
        {
            await w.Db.TermsTexts.Where(t => t.Terms == withdrawn.Key && t.Number == withdrawn.Number).ExecuteDeleteAsync(w.Stop);
            await w.Db.Terms.Where(t => t.Key == withdrawn.Key).ExecuteUpdateAsync(t => t.SetProperty(r => r.Version, r => r.Version + 1), w.Stop);
        });
        writers.On<TermsDropped>(async (w, dropped) =>
        {
            // Their text is the evidence of what somebody said to them.
            await w.SaveAsync();
            if (await w.Db.Consents.AnyAsync(c => c.Terms == dropped.Key, w.Stop))
            {
                throw new StoreRefusedException(Problem.Of(ProblemKind.Conflict, "terms-evidence", dropped.Key));
            }

            await w.Db.TermsTexts.Where(t => t.Terms == dropped.Key).ExecuteDeleteAsync(w.Stop);
            await w.Db.Terms.Where(t => t.Key == dropped.Key).ExecuteDeleteAsync(w.Stop);
        });
        writers.Also<FactReplaced>((w, replaced) =>
            AudienceChanges.ReplaceAsync(w, replaced, w.Db.Terms, r => r.Audience, (r, audience) => r.Audience = audience));
        writers.Gather<ConsentGiven>((w, given) => w.Rows.Insert(ConsentRow.Of(given.Consent)));
    }
}
