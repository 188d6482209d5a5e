using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Facts;

namespace WarySentinel.Storage.Facts;

/// <summary>How roles, groups and plans are stored.</summary>
internal static class FactDefinitionChanges
{
    public static void Register(Writers writers)
    {
        writers.On<FactDefinitionPut>((w, put) => w.PutAsync(FactDefinitionRow.Of(put.Definition), (int)put.Definition.Kind, put.Definition.Key));
        writers.On<FactDefinitionDropped>((w, dropped) =>
            w.Db.Definitions.Where(d => d.Kind == (int)dropped.Kind && d.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
    }
}
