using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Letters;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.Letters;

/// <summary>How messages are put on their way.</summary>
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
            });
        });
        // Letters to somebody who was erased go with them, sent or not.
        writers.Also<MemberErased>((w, erased) => w.Db.Outbox.Where(m => m.To == erased.Email).ExecuteDeleteAsync(w.Stop));
    }
}
