using WarySentinel.Contract.Hosted;

namespace WarySentinel.Cli.Hosted;

/// <summary>What has to be done for the service to say what a folder says.</summary>
/// <param name="Steps">In the order in which it is done.</param>
internal sealed record PushPlan(IReadOnlyList<FolderStep> Steps)
{
    public static PushPlan Of(LocalPages local, RemotePages there, bool force, bool prune)
    {
        var steps = new List<FolderStep>();
        foreach (var (key, section) in local.Sections)
        {
            var now = there.Sections.FirstOrDefault(s => s.Key == key);
            if (now is null || SectionFile.Of(now) != section)
            {
                steps.Add(new FolderStep(now is null ? '+' : '~', $"section {key}", call => call.Client.PutSectionAsync(key, section.Draft, call.Stop)));
            }
        }

        foreach (var page in local.Pages)
        {
            var now = there.Pages.FirstOrDefault(p => p.View.Key == page.Key);
            steps.AddRange(StepsOf(page, now, local.Known.GetValueOrDefault(page.Key), force));
            steps.AddRange(FilesOf(page, now, prune));
        }

        foreach (var gone in there.Pages.Where(p => local.Sections.ContainsKey(p.View.Section) && local.Pages.All(l => l.Key != p.View.Key)))
        {
            steps.Add(prune ? new FolderStep('-', $"page {gone.View.Key}", call => call.Client.RemovePageAsync(gone.View.Key, call.Stop))
                : new FolderStep('=', $"page {gone.View.Key} is only on the service (--prune removes it)", null));
        }

        return new PushPlan(steps);
    }

    private static IEnumerable<FolderStep> StepsOf(LocalPage page, RemotePage? now, string? known, bool force)
    {
        if (now is null)
        {
            return [new FolderStep('+', $"page {page.Key}", call => AddAsync(call, page))];
        }

        var there = now.Like(page.File).Digest;
        if (there == page.File.Digest && now.View.Section == page.Section)
        {
            return [];
        }

        var movedThere = there != known && now.File.Digest != known;
        return movedThere && !force ? known == page.File.Digest ? [new FolderStep('=', $"page {page.Key} is newer on the service (pull takes it over)", null)]
            : [new FolderStep('!', $"page {page.Key}", null)]
            : [new FolderStep('~', $"page {page.Key}", call => ChangeAsync(call, page, now))];
    }

    private static async Task AddAsync(Call call, LocalPage page)
    {
        var file = page.File;
        var added = await call.Client.AddPageAsync(
            new HostedPageNew(page.Section, file.Title, page.Key, file.Address, file.Description, file.Text), call.Stop);
        if (file.Position is not null)
        {
            await call.Client.SetPageAsync(page.Key, new HostedPageDraft(Position: file.Position), call.Stop);
        }

        if (file.Gate is not null)
        {
            await call.Client.GuardPageAsync(page.Key, file.Gate == "anyone" ? null : file.Gate, call.Stop);
        }

        // Guarded first, then served.
        if (!file.Draft)
        {
            await call.Client.PublishPageAsync(added.Key, new PublishDraft(), call.Stop);
        }
    }

    private static async Task ChangeAsync(Call call, LocalPage page, RemotePage now)
    {
        var (file, there) = (page.File, now.File);
        if (file.Gate != there.Gate && file.Gate is not null)
        {
            await call.Client.GuardPageAsync(page.Key, file.Gate == "anyone" ? null : file.Gate, call.Stop);
        }

        if (page.Section != now.View.Section || file.Address != there.Address || (file.Position is not null && file.Position != there.Position))
        {
            await call.Client.SetPageAsync(page.Key, new HostedPageDraft(page.Section, null, file.Address, file.Position), call.Stop);
        }

        var writing = new HostedTextDraft(file.Title, file.Text, file.Description);
        if (file.Draft)
        {
            await call.Client.WritePageAsync(page.Key, writing, call.Stop);
        }
        else if (there.Draft || file.Title != there.Title || file.Text != there.Text || file.Description != there.Description)
        {
            await call.Client.PublishPageAsync(page.Key, new PublishDraft(null, writing, now.View.Published ?? 0), call.Stop);
        }

        // What it lets in goes last: until then it is as closed as it was.
        if (file.Gate is null && there.Gate is not null)
        {
            await call.Client.InheritPageAsync(page.Key, call.Stop);
        }
    }

    private static IEnumerable<FolderStep> FilesOf(LocalPage page, RemotePage? now, bool prune)
    {
        foreach (var (name, path) in page.Files.OrderBy(f => f.Key, StringComparer.Ordinal))
        {
            var there = now?.Files.FirstOrDefault(f => f.Name == name);
            if (there is null || there.Digest != LocalPages.DigestOf(path))
            {
                yield return new FolderStep(there is null ? '+' : '~', $"file {page.Key}/{name}", async call =>
                {
                    await using var content = File.OpenRead(path);
                    await call.Client.PutPageFileAsync(page.Key, name, content, call.Stop);
                });
            }
        }

        foreach (var gone in (now?.Files ?? []).Where(f => prune && !page.Files.ContainsKey(f.Name)))
        {
            yield return new FolderStep('-', $"file {page.Key}/{gone.Name}", call => call.Client.RemovePageFileAsync(page.Key, gone.Name, call.Stop));
        }
    }
}

/// <summary>What has to be written for a folder to say what the service says.</summary>
internal static class PullPlan
{
    public static async Task<IReadOnlyList<FolderStep>> OfAsync(Call call, LocalPages local, RemotePages there, bool force)
    {
        var steps = new List<FolderStep>();
        foreach (var section in there.Sections)
        {
            var (now, file) = (local.Sections.GetValueOrDefault(section.Key), SectionFile.Of(section));
            if (now != file)
            {
                steps.Add(new FolderStep(now is null ? '+' : '~', $"section {section.Key}", _ => WriteAsync(local, section.Key, file)));
            }
        }

        foreach (var page in there.Pages)
        {
            var now = local.Pages.FirstOrDefault(p => p.Key == page.View.Key);
            var known = local.Known.GetValueOrDefault(page.View.Key);
            if (now is null || page.Like(now.File).Digest != now.File.Digest)
            {
                var movedHere = now is not null && now.File.Digest != known;
                if (movedHere && known is not null && (page.File.Digest == known || page.Like(now!.File).Digest == known) && !force)
                {
                    // Only the folder has moved on: that is for a push.
                    continue;
                }

                steps.Add(movedHere && !force ? new FolderStep('!', $"page {page.View.Key}", null)
                    : new FolderStep(now is null ? '+' : '~', $"page {page.View.Key}", _ => WriteAsync(local, page, now)));
            }

            foreach (var file in page.Files.Where(f => now is null || !now.Files.TryGetValue(f.Name, out var path) || LocalPages.DigestOf(path) != f.Digest))
            {
                var content = await call.Client.PageFileAsync(page.View.Key, file.Name, call.Stop);
                steps.Add(new FolderStep('+', $"file {page.View.Key}/{file.Name}", async _ =>
                {
                    var folder = Directory.CreateDirectory(Path.Combine(local.Root.FullName, page.View.Section, page.View.Key));
                    await File.WriteAllBytesAsync(Path.Combine(folder.FullName, file.Name), content);
                }));
            }
        }

        return steps;
    }

    private static async Task WriteAsync(LocalPages local, string key, SectionFile section)
    {
        var folder = Directory.CreateDirectory(Path.Combine(local.Root.FullName, key));
        await File.WriteAllTextAsync(Path.Combine(folder.FullName, "section.yaml"), section.Write());
        if (section.Template is { } template)
        {
            await File.WriteAllTextAsync(Path.Combine(folder.FullName, "layout.liquid"), template);
        }
    }

    private static async Task WriteAsync(LocalPages local, RemotePage page, LocalPage? before)
    {
        var folder = Directory.CreateDirectory(Path.Combine(local.Root.FullName, page.View.Section));
        if (before is not null && before.Section != page.View.Section)
        {
            File.Delete(Path.Combine(local.Root.FullName, before.Section, before.Key + ".md"));
        }

        await File.WriteAllTextAsync(Path.Combine(folder.FullName, page.View.Key + ".md"), page.File.Write());
    }
}
