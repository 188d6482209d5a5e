using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Letters;
using WarySentinel.Core.People;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.Letters;

/// <summary>How messages are put on their way, and the owner's words for them kept.</summary>
internal static class OutboxChanges
{
    public static void Register(Writers writers)
    {
        writers.Gather<MessageQueued>((w, queued) =>
        {
            var message = queued.Message;
            w.Rows.Insert(new OutboxRow
            {
                Id = message.Id, To = message.To, Subject = message.Subject, Body = message.Body, CreatedAt = message.At, NextTryAt = message.At,
                Kind = message.Kind, Urgency = (int)message.Urgency,
            });
            if (message.Urgency == Urgency.Now)
            {
                // Somebody waits: whoever sends letters looks at once.
                w.News.Tell(Told.Letter, message.Id.ToString("N"));
            }
        });
        // Letters to somebody who was erased go with them, sent or not; so does that none reached them.
        writers.Also<MemberErased>(async (w, erased) =>
        {
            await w.Db.Outbox.Where(m => m.To == erased.Email).ExecuteDeleteAsync(w.Stop);
            await w.Db.Unreachable.Where(u => u.Address == erased.Email).ExecuteDeleteAsync(w.Stop);
        });
        writers.On<TemplatePut>(async (w, put) =>
        {
            var template = put.Template;
            await w.Db.LetterTemplates.Where(t => t.Kind == template.Kind && t.Language == template.Language).ExecuteDeleteAsync(w.Stop);
            w.Rows.Insert(LetterTemplateRow.Of(template));
        });
        writers.On<TemplateDropped>((w, dropped) => w.Db.LetterTemplates.Where(t => t.Kind == dropped.Kind && t.Language == dropped.Language)
            .ExecuteDeleteAsync(w.Stop));
    }
}
